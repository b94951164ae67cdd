import { fileURLToPath } from 'node:url'
import { sourcesHash } from './scripts/lib/packages.mjs'

const root = fileURLToPath(new URL('.', import.meta.url))

/**
 * What the jobs need is in a file apart from what the server begins with (Nitro's own division): a process that loaded
 * that would begin as a server, too.
 */
const partOf = (id: string) =>
  id.includes('/nitropack/dist/')
    ? 'nitro'
    : JOBS_NEED.test(id.slice(root.length))
      ? 'jobs-need'
      : QUEUE_NEEDS.test(id.slice(root.length))
        ? 'queue'
        : null
const JOBS_NEED =
  /^((core|demo)\/|server\/(db|services)\/|server\/utils\/(api-error|body|known-error|log|picture|within)\.ts|server\/jobs\/outcome\.ts)/
/** So is what takes jobs from the queue, with a server or without one. */
const QUEUE_NEEDS = /^server\/jobs\/(asking|job-process|lane|pool|queue|taking)\.ts/

/**
 * Builds what processes and threads beside the server's own start with, and what the command line does jobs by
 * (Rollup's `emitFile`).
 */
const jobFiles = {
  name: 'job-files',
  buildStart(this: { emitFile: (file: object) => string }) {
    for (const name of ['jobs', 'child', 'watch', 'worker'])
      this.emitFile({ type: 'chunk', id: `${root}server/jobs/${name}.ts`, fileName: `${name}.mjs` })
  },
}

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  // The editor is all canvas and pointer; there is nothing a server could draw first.
  ssr: false,
  telemetry: false,
  // Pages ask for it themselves, when the server is heard again.
  experimental: { checkOutdatedBuildInterval: false },
  // By it pages notice that there is a newer version; servers of one version agree, wherever each was built.
  buildId: sourcesHash().slice(0, 16),
  devtools: { enabled: false },
  modules: ['@pinia/nuxt', 'vuetify-nuxt-module', 'nuxt-security'],
  components: [{ path: '~/ui', pathPrefix: false }],
  // Of Vuetify's styles those that its components need; not the thousands of classes for writing pages with.
  css: ['vuetify/styles/layers', 'vuetify/styles/core', '~/assets/fonts.css', '~/assets/main.css'],
  app: {
    head: {
      title: 'Handy Grid',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/icon.svg' }],
    },
  },
  vuetify: { vuetifyOptions: './vuetify.config.ts', moduleOptions: { styles: true, disableVuetifyStyles: true } },
  security: {
    strict: false,
    rateLimiter: false,
    // Bodies are measured, parsed and checked by the routes themselves, with errors that name the field.
    requestSizeLimiter: false,
    xssValidator: false,
    corsHandler: false,
    headers: {
      contentSecurityPolicy: {
        'default-src': ["'none'"],
        'base-uri': ["'none'"],
        'connect-src': ["'self'"],
        'font-src': ["'self'"],
        'form-action': ["'self'"],
        'frame-ancestors': ["'none'"],
        'img-src': ["'self'", 'blob:', 'data:'],
        'manifest-src': ["'self'"],
        // Decoders of compressed meshes are WebAssembly; no text is ever run.
        'script-src': ["'self'", "'nonce-{{nonce}}'", "'wasm-unsafe-eval'"],
        'script-src-attr': ["'none'"],
        // Vuetify writes its theme into a style element at run time.
        'style-src': ["'self'", "'unsafe-inline'"],
        'worker-src': ["'self'", 'blob:'],
        'upgrade-insecure-requests': false,
      },
      crossOriginEmbedderPolicy: false,
      strictTransportSecurity: false,
    },
  },
  nitro: {
    errorHandler: `${root}server/error-handler.ts`,
    experimental: { websocket: true },
    typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
    rollupConfig: { external: ['pg-native'], plugins: [jobFiles], output: { manualChunks: partOf } },
    compressPublicAssets: { gzip: true, brotli: true },
    // What writes PDF needs an older one beside it; two versions of it cannot lie side by side outside.
    externals: {
      inline: ['@noble/hashes'],
      traceInclude: ['encoder', 'decoder_gltf', 'decoder'].map(
        name => `${root}node_modules/draco3dgltf/draco_${name}.wasm`,
      ),
    },
  },
  typescript: {
    strict: true,
    tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } },
    nodeTsConfig: {
      compilerOptions: {
        noUncheckedIndexedAccess: true,
        types: ['node'],
        paths: { '~~/*': ['../*'], '~/*': ['../app/*'] },
      },
      include: [
        '../core/**/*',
        '../server/**/*.d.ts',
        '../demo/**/*',
        '../tests/**/*',
        '../bench/**/*',
        '../app/**/*.test.ts',
        '../vitest.config.ts',
        '../vitest.unit.config.ts',
        '../playwright.config.ts',
        '../drizzle.config.ts',
      ],
    },
  },
  vite: {
    worker: { format: 'es' },
    build: { chunkSizeWarningLimit: 2000 },
    optimizeDeps: { include: ['three', 'three-mesh-bvh', '@gltf-transform/core', 'expr-eval-fork'] },
  },
})
