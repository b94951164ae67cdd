import { existsSync } from 'node:fs'
import { run, Stop } from './run.mjs'

/**
 * Installs packages of Debian (or of a system built on it) where we may: as root, or by a sudo that asks nothing.
 * @param what said to the person, such as "PostgreSQL"
 * @throws Stop with what to do by hand where we may not
 */
export async function installDebian(what, names) {
  const byHand = `${what} is not installed. Install it, for example with: sudo apt-get install ${names.join(' ')}`
  if (!existsSync('/usr/bin/apt-get')) throw new Stop(byHand)
  const prefix = process.getuid?.() === 0 ? [] : ['sudo', '-n']
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  const apt = (...args) => {
    const [command, ...rest] = [...prefix, 'apt-get', ...args]
    return run(command, rest, { env, stdio: ['ignore', 'ignore', 'inherit'] })
  }
  console.log(`Installing ${what} from Debian's packages ...`)
  try {
    await apt('update', '-q')
    await apt('install', '-q', '-y', '--no-install-recommends', ...names)
  } catch (error) {
    throw new Stop(`${byHand}\n(${error.message})`)
  }
}
