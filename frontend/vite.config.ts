import { fileURLToPath } from 'node:url';
import vue from '@vitejs/plugin-vue';
import { BootstrapVueNextResolver } from 'bootstrap-vue-next/resolvers';
import icons from 'unplugin-icons/vite';
import components from 'unplugin-vue-components/vite';
import type { Plugin } from 'vite';
import { VitePWA } from 'vite-plugin-pwa';
import { defineConfig } from 'vitest/config';

/** Names the app's script and style in the page itself: the first script would ask for them only once it runs. */
function appInPage(): Plugin {
  return {
    name: 'app-in-page',
    transformIndexHtml(_, { bundle }) {
      const app = Object.values(bundle ?? {}).find((part) => part.type === 'chunk' && part.name === 'app');
      if (app?.type !== 'chunk') return [];
      const styles = [...(app.viteMetadata?.importedCss ?? [])];
      return [
        {
          tag: 'link',
          attrs: { rel: 'modulepreload', crossorigin: true, href: `/${app.fileName}` },
          injectTo: 'head' as const,
        },
        ...styles.map((href) => ({
          tag: 'link',
          attrs: { rel: 'stylesheet', crossorigin: true, href: `/${href}` },
          injectTo: 'head' as const,
        })),
      ];
    },
  };
}

/** Lets every `{{ }}` show its numbers with the device's decimal mark. */
function shownMarks(): Plugin {
  return {
    name: 'shown-marks',
    transform(code, id) {
      if (!/\.vue($|\?vue&type=(template|script))/.test(id) || id.includes('node_modules')) return null;
      if (!code.includes('_toDisplayString(')) return null;
      const own = code.replaceAll('_toDisplayString(', '_shown(');
      return { code: `import { shown as _shown } from '@/support/decimalMark';\n${own}`, map: null };
    },
  };
}

/** Tests that see what other files left in the storage, or leave something. */
const OWN_DOCUMENT = ['tests/editor.test.ts', 'tests/outbox.test.ts', 'tests/captures.test.ts'];

export default defineConfig({
  plugins: [
    vue(),
    shownMarks(),
    appInPage(),
    components({ resolvers: [BootstrapVueNextResolver()], dirs: [], dts: 'src/components.d.ts' }),
    icons({ compiler: 'vue3' }),
    VitePWA({
      // A new version is offered, never forced on a run.
      registerType: 'prompt',
      injectRegister: null,
      manifest: {
        name: 'Upper Rook',
        short_name: 'Upper Rook',
        description: 'Set a car audio system’s levels and crossovers by measurement.',
        theme_color: '#fbf8f1',
        background_color: '#fbf8f1',
        display: 'standalone',
        start_url: '/',
        icons: [
          { src: '/rook-192.png', sizes: '192x192', type: 'image/png' },
          { src: '/rook-512.png', sizes: '512x512', type: 'image/png' },
          { src: '/rook-maskable.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
        ],
      },
      workbox: {
        // The latin subset of the fonts is all that the app writes in.
        globPatterns: ['**/*.{js,css,html,svg,png,webmanifest}', '**/*latin-wght*.woff2'],
        globIgnores: ['**/*latin-ext*'],
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /^\/(robots|third-party)\.txt$/],
        cleanupOutdatedCaches: true,
        // The header of an old page may still be asked for while a new version waits.
        clientsClaim: false,
        skipWaiting: false,
        inlineWorkboxRuntime: true,
        sourcemap: false,
      },
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  css: {
    preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ['import', 'global-builtin'] } },
  },
  build: {
    target: 'es2022',
    reportCompressedSize: false,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            // The table of pages is read before the app.
            {
              name: 'first',
              test: /src[\\/]routes\.ts$|vite[\\/]preload-helper|rolldown[\\/]runtime/,
              priority: 2,
            },
            // What every page needs comes in one piece: some twenty small ones are asked for one after the other.
            { name: 'app', test: /src[\\/]app\.ts$/, priority: 1 },
            // Shared code is small, but for dialogs: few pages open with one.
            {
              name: 'shared',
              test: /src[\\/](?!components[\\/]InfoDialog)/,
              minShareCount: 2,
              includeDependenciesRecursively: false,
            },
          ],
        },
      },
    },
  },
  optimizeDeps: { include: ['bootstrap-vue-next/components/*'] },
  server: { proxy: { '/api': 'http://127.0.0.1:8765' } },
  test: {
    environment: 'jsdom',
    pool: 'threads',
    // A document of its own costs a file more than its tests: those alone have one that count on a fresh storage.
    projects: [
      {
        extends: true,
        test: { name: 'shared', include: ['tests/**/*.test.ts'], exclude: OWN_DOCUMENT, isolate: false },
      },
      { extends: true, test: { name: 'own', include: OWN_DOCUMENT } },
    ],
  },
});
