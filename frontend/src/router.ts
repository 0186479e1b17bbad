import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('@/aircraft/AircraftView.vue') },
    { path: '/flight', component: () => import('@/flight/FlightView.vue') },
    { path: '/aircraft/:id', component: () => import('@/aircraft/ProfileView.vue'), props: true },
    { path: '/aircraft/:id/starts', component: () => import('@/records/StartsView.vue'), props: true },
    { path: '/aircraft/:id/trends', component: () => import('@/records/TrendsView.vue'), props: true },
    { path: '/aircraft/:id/plan', component: () => import('@/plan/PlanView.vue'), props: true },
    { path: '/aircraft/:id/today', component: () => import('@/plan/TodayView.vue'), props: true },
    { path: '/aircraft/:id/balance', component: () => import('@/plan/BalanceView.vue'), props: true },
    { path: '/aircraft/:id/method', component: () => import('@/aircraft/MethodView.vue'), props: true },
    { path: '/new', component: () => import('@/aircraft/NewAircraftView.vue') },
    { path: '/aircraft/:id/edit', component: () => import('@/edit/EditView.vue'), props: true },
    { path: '/aircraft/:id/hear', component: () => import('@/records/HearView.vue'), props: true },
    { path: '/aircraft/:id/own', component: () => import('@/edit/OwnItemsView.vue'), props: true },
    { path: '/aircraft/:id/versions', component: () => import('@/aircraft/VersionsView.vue'), props: true },
    { path: '/aircraft/:id/panel', component: () => import('@/aircraft/PanelView.vue'), props: true },
    { path: '/help', component: () => import('@/settings/HelpView.vue') },
    { path: '/settings', component: () => import('@/settings/SettingsView.vue') },
    { path: '/records', component: () => import('@/records/RecordsView.vue') },
    { path: '/records/:id', component: () => import('@/records/FlightRecordView.vue'), props: true },
    { path: '/:rest(.*)*', component: () => import('@/settings/NoPageView.vue') },
  ],
})
