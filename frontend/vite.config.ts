import { fileURLToPath } from 'node:url';
import vue from '@vitejs/plugin-vue';
import { BootstrapVueNextResolver } from 'bootstrap-vue-next/resolvers';
import icons from 'unplugin-icons/vite';
import components from 'unplugin-vue-components/vite';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [
    vue(),
    components({ resolvers: [BootstrapVueNextResolver()], dirs: [], dts: 'src/components.d.ts' }),
    icons({ compiler: 'vue3' }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  css: { preprocessorOptions: { scss: { quietDeps: true } } },
  build: { target: 'es2022', reportCompressedSize: false },
  optimizeDeps: { include: ['bootstrap-vue-next/components/*'] },
  server: { proxy: { '/api': 'http://127.0.0.1:8765' } },
  test: { environment: 'jsdom', include: ['tests/**/*.test.ts'] },
});
