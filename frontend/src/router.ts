import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('./views/AircraftView.vue') },
    { path: '/flight', component: () => import('./views/FlightView.vue') },
    { path: '/aircraft/:id', component: () => import('./views/ProfileView.vue'), props: true },
    { path: '/aircraft/:id/starts', component: () => import('./views/StartsView.vue'), props: true },
    { path: '/aircraft/:id/trends', component: () => import('./views/TrendsView.vue'), props: true },
    { path: '/aircraft/:id/plan', component: () => import('./views/PlanView.vue'), props: true },
    { path: '/aircraft/:id/method', component: () => import('./views/MethodView.vue'), props: true },
    { path: '/settings', component: () => import('./views/SettingsView.vue') },
    { path: '/records', component: () => import('./views/RecordsView.vue') },
    { path: '/records/:id', component: () => import('./views/FlightRecordView.vue'), props: true },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
