// Does jobs of the queue for the servers of one database, on this machine or another, and answers no requests.
import { spawn } from 'node:child_process'
import { checkNode, ensureBuild, ensurePackages } from './lib/packages.mjs'
import { checkDatabase } from './lib/postgres.mjs'
import { root, Stop } from './lib/run.mjs'

async function main() {
  checkNode()
  const url = process.env.DATABASE_URL
  if (!url) throw new Stop('Whose jobs? DATABASE_URL is needed: the same as that of the servers.')
  await ensurePackages()
  await checkDatabase(url)
  await ensureBuild()
  const worker = spawn(process.execPath, ['.output/server/worker.mjs'], {
    cwd: root,
    env: { ...process.env, NODE_ENV: 'production' },
    stdio: 'inherit',
  })
  // It ends once it is done with what it has; told so once more, at once.
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => worker.kill('SIGTERM'))
  worker.on('exit', code => process.exit(code ?? 1))
}

main().catch(error => {
  console.error(error instanceof Stop ? error.message : error)
  process.exit(1)
})
