import { defineConfig } from 'astro/config';
import node from '@astrojs/node';
import react from '@astrojs/react';
import globalData from '@csstools/postcss-global-data';
import customMedia from 'postcss-custom-media';

export default defineConfig({
  output: 'server',
  // src/main/serve.ts serves what is built.
  adapter: node({ mode: 'middleware' }),
  integrations: [react()],
  devToolbar: { enabled: false },
  // The hashes of the scripts that stand within a page; src/middleware.ts puts them into our own policy.
  experimental: { csp: true },
  // The origin check is ours (src/middleware.ts): it also covers JSON and CSV bodies.
  security: { checkOrigin: false },
  build: { inlineStylesheets: 'auto' },
  vite: {
    css: { postcss: { plugins: [globalData({ files: ['src/ui/breakpoints.css'] }), customMedia()] } },
    // Its own entry for bundlers has no default, and in Node nothing else has.
    resolve: { alias: [{ find: /^rrule$/, replacement: 'rrule/dist/es5/rrule.js' }] },
    ssr: { external: ['@node-rs/argon2', 'mysql2', 'pino', 'rrule'] },
    build: {
      chunkSizeWarningLimit: 900,
      rollupOptions: {
        // Nothing happens where the core, the contract and the decimals are only loaded: a page brings those parts that it uses.
        treeshake: { moduleSideEffects: (id) => !/\/src\/(core|contract)\/|\/decimal\.js\//.test(id) },
      },
    },
  },
});
