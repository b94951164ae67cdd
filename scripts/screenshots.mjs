// Takes the pictures in docs/screenshots, and the demo's picture for the list of levels, from the built application.
// `npm run screenshots -- levels editor-day` takes only those named.
import { spawn } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ensureChromium } from './lib/chromium.mjs'
import { CHROMIUM_ARGS } from './lib/chromium-args.mjs'
import { ensureBuild, ensurePackages } from './lib/packages.mjs'
import { startThrowawayPostgres } from './lib/postgres.mjs'
import { end, freePort, root, waitFor } from './lib/run.mjs'
import { scenes } from './scenes.mjs'

const named = process.argv.slice(2)
await ensurePackages()
await ensureBuild()
const { chromium } = await import('@playwright/test')
const postgres = await startThrowawayPostgres()
const port = await freePort()
const server = spawn(process.execPath, ['.output/server/index.mjs'], {
  cwd: root,
  stdio: ['ignore', 'ignore', 'inherit'],
  env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), DATABASE_URL: postgres.url },
})
const url = `http://127.0.0.1:${port}`
const browser = await chromium.launch({
  executablePath: await ensureChromium(),
  args: CHROMIUM_ARGS,
})
const errors = []
try {
  await waitFor(
    () =>
      fetch(`${url}/api/health`).then(
        answer => answer.ok,
        () => false,
      ),
    60,
    'the server does not answer',
  )
  for (const [name, scene] of Object.entries(scenes)) {
    if (named.length > 0 && !named.includes(name)) continue
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' })
    // A picture of a page that failed is none.
    page.on('pageerror', error => errors.push(`${name}: ${error.message}`))
    page.on('console', message => message.type() === 'error' && errors.push(`${name}: ${message.text()}`))
    const picture = await scene(page, url)
    if (picture) writeFileSync(join(root, picture.file), Buffer.from(picture.data, 'base64'))
    else await page.screenshot({ path: join(root, `docs/screenshots/${name}.png`) })
    await page.close()
    console.log(`took ${name}`)
  }
} finally {
  for (const error of errors) console.error(error)
  if (errors.length > 0) process.exitCode = 1
  await browser.close()
  await end(server.pid, 'SIGTERM')
  await postgres.stop()
}
