import { spawn } from 'node:child_process'
import { createServer } from 'node:net'
import { dirname, resolve } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { fileURLToPath } from 'node:url'

/** The project's folder. */
export const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..')

/** A failure that is explained by its message alone. */
export class Stop extends Error {}

/**
 * Runs a command to its end in the project's folder, its output going where ours goes.
 * @throws Stop if it does not end well
 */
export function run(command, args, options = {}) {
  return new Promise((done, fail) => {
    const child = spawn(command, args, { cwd: root, stdio: 'inherit', ...options })
    child.on('error', error => fail(new Stop(`${command} could not be started: ${error.message}`)))
    child.on('exit', (code, signal) =>
      code === 0 ? done() : fail(new Stop(`${[command, ...args].join(' ')} ended with ${signal ?? code}`)),
    )
  })
}

/** The project's own copy of a command line tool. */
export function tool(name) {
  return resolve(root, 'node_modules/.bin', name)
}

/** Asks until the answer is truthy. @throws Stop with `message` after `seconds` */
export async function waitFor(ask, seconds, message) {
  const end = Date.now() + seconds * 1000
  for (;;) {
    const answer = await ask()
    if (answer) return answer
    if (Date.now() > end) throw new Stop(message)
    await sleep(100)
  }
}

export function isRunning(pid) {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return error.code === 'EPERM'
  }
}

/** Ends a process: asks with `signal`, insists after `seconds`. */
export async function end(pid, signal, seconds = 20) {
  if (!isRunning(pid)) return
  process.kill(pid, signal)
  try {
    await waitFor(() => !isRunning(pid), seconds, '')
  } catch {
    process.kill(pid, 'SIGKILL')
    await waitFor(() => !isRunning(pid), 5, `process ${pid} does not end`)
  }
}

/** Whether nobody listens at a port yet; `host` and `port` as for a server. */
export function isFree(port, host) {
  return new Promise(done => {
    const probe = createServer()
    probe.once('error', () => done(false))
    probe.listen(port, host, () => probe.close(() => done(true)))
  })
}

/** A port nobody listens at. */
export function freePort() {
  return new Promise((done, fail) => {
    const probe = createServer()
    probe.once('error', fail)
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address()
      probe.close(() => done(port))
    })
  })
}
