// Runs several servers behind one port: `node scripts/lib/processes.mjs 3`. One that ends by itself is started again.
import cluster from 'node:cluster'
import { fileURLToPath } from 'node:url'

/** Milliseconds before a server is started again. */
const PAUSE = 1000
const count = Number(process.argv[2])
let isOver = false

cluster.setupPrimary({ exec: fileURLToPath(new URL('../../.output/server/index.mjs', import.meta.url)) })
for (let i = 0; i < count; i++) cluster.fork()
cluster.on('exit', ({ process: { pid } }, code, signal) => {
  if (isOver) {
    if (Object.keys(cluster.workers).length === 0) process.exit(0)
    return
  }
  console.error(`Server process ${pid} ended by itself (${signal ?? code}); another one is started.`)
  setTimeout(() => isOver || cluster.fork(), PAUSE)
})
for (const signal of ['SIGTERM', 'SIGINT'])
  process.on(signal, () => {
    isOver = true
    for (const { process: server } of Object.values(cluster.workers)) server.kill('SIGTERM')
    if (Object.keys(cluster.workers).length === 0) process.exit(0)
  })
