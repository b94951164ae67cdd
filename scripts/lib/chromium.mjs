import { existsSync } from 'node:fs'
import { installDebian } from './debian.mjs'

/** Debian's Chromium; installed first if it is missing. CHROMIUM names another one. */
export async function ensureChromium() {
  const path = process.env.CHROMIUM || '/usr/bin/chromium'
  if (!existsSync(path)) await installDebian('Chromium', ['chromium'])
  return path
}
