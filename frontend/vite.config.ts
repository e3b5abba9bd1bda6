import { readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath, URL } from 'node:url'
import vue from '@vitejs/plugin-vue'
import license, { type Dependency } from 'rollup-plugin-license'
import { VitePWA } from 'vite-plugin-pwa'
import { defineConfig } from 'vitest/config'

/** Shipped too, and not seen by the bundler: fonts come through style sheets, the worker is built apart. */
const UNSEEN = [
  '@fontsource-variable/atkinson-hyperlegible-mono',
  '@fontsource-variable/atkinson-hyperlegible-next',
  'workbox-core',
  'workbox-precaching',
  'workbox-routing',
  'workbox-strategies',
]
function ofPackage(name: string) {
  const folder = fileURLToPath(new URL(`./node_modules/${name}/`, import.meta.url))
  const about = JSON.parse(readFileSync(`${folder}package.json`, 'utf8')) as Record<string, string>
  const file = readdirSync(folder).find((x) => /^licen[cs]e/i.test(x))
  return {
    name,
    version: about.version,
    part: 'page',
    licence: about.license ?? 'see its text',
    text: file ? readFileSync(folder + file, 'utf8') : '',
  }
}

/** What the pages are built of, for the list of licences that the server shows. */
const licences = license({
  thirdParty: {
    includePrivate: false,
    output: {
      file: fileURLToPath(new URL('./dist/licences.json', import.meta.url)),
      template: (packages: Dependency[]) =>
        JSON.stringify([
          ...packages.map((p) => ({
            name: p.name ?? '',
            version: p.version ?? '',
            part: 'page',
            licence: p.license ?? 'see its text',
            text: p.licenseText ?? '',
          })),
          ...UNSEEN.map(ofPackage),
        ]),
    },
  },
})

/**
 * The pages open without the server once they were opened with it. What they show then is what the server said last: reads are
 * answered by it as long as it is there. A new version is fetched in the background and taken when the page is opened next.
 */
const installable = VitePWA({
  strategies: 'injectManifest',
  srcDir: 'src',
  filename: 'worker.ts',
  injectRegister: false,
  manifest: {
    name: 'Volmek: motor starters',
    short_name: 'Volmek',
    description: 'Sizes, sets and proves motor starters, and keeps the record',
    lang: 'en',
    start_url: '/',
    display: 'standalone',
    background_color: '#f4f2ea',
    theme_color: '#1b1d1a',
    icons: [
      { src: 'mark.svg', sizes: 'any', type: 'image/svg+xml' },
      { src: 'icon-192.png', sizes: '192x192', type: 'image/png' },
      { src: 'icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'any maskable' },
    ],
  },
  injectManifest: {
    globPatterns: ['**/*.{js,css,html,svg,png,woff2}'],
    maximumFileSizeToCacheInBytes: 6_000_000,
  },
})

export default defineConfig({
  plugins: [vue(), licences, installable],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  server: {
    host: '127.0.0.1',
    port: 5173,
    strictPort: true,
    proxy: { '/api': 'http://127.0.0.1:8080' },
  },
  build: { target: 'es2022', sourcemap: false },
  test: { environment: 'jsdom', include: ['src/**/*.test.ts'] },
})
