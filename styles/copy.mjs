// Copies htmx, tus-js-client, pdf.js and the fonts from their npm packages into the embedded folder.
import { copyFileSync, cpSync, mkdirSync } from 'node:fs'
const to = '../internal/web/static/'
const font = (pkg, file, as) => copyFileSync(`node_modules/@fontsource-variable/${pkg}/files/${file}`, to + as)
copyFileSync('node_modules/htmx.org/dist/htmx.min.js', to + 'htmx.min.js')
copyFileSync('node_modules/tus-js-client/dist/tus.min.js', to + 'tus.min.js')
mkdirSync(to + 'pdf', { recursive: true })
copyFileSync('node_modules/pdfjs-dist/LICENSE', to + 'pdf/LICENSE')
copyFileSync('node_modules/tus-js-client/LICENSE', to + 'tus-LICENSE')
for (const f of ['pdf.min.mjs', 'pdf.worker.min.mjs']) copyFileSync('node_modules/pdfjs-dist/build/' + f, to + 'pdf/' + f)
for (const d of ['cmaps', 'standard_fonts']) cpSync('node_modules/pdfjs-dist/' + d, to + 'pdf/' + d, { recursive: true })
font('atkinson-hyperlegible-next', 'atkinson-hyperlegible-next-latin-wght-normal.woff2', 'ahn-latin.woff2')
font('atkinson-hyperlegible-next', 'atkinson-hyperlegible-next-latin-ext-wght-normal.woff2', 'ahn-latin-ext.woff2')
font('atkinson-hyperlegible-mono', 'atkinson-hyperlegible-mono-latin-wght-normal.woff2', 'ahm-latin.woff2')
font('source-serif-4', 'source-serif-4-latin-wght-normal.woff2', 'ss4-latin.woff2')
font('source-serif-4', 'source-serif-4-latin-ext-wght-normal.woff2', 'ss4-latin-ext.woff2')
