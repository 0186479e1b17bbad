import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue(), Components({ resolvers: [ElementPlusResolver()], dts: false, dirs: [] })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { outDir: '../jemmon/web', emptyOutDir: true, target: 'es2022', assetsInlineLimit: 0 },
  worker: { format: 'es' },
  test: { environment: 'happy-dom', include: ['tests/*.test.ts'] },
  server: { proxy: { '/api': 'http://127.0.0.1:8400' } },
})
