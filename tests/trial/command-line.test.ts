import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { useServer } from '../api/support'
import { levelFile } from './content'

// Every command of `npm run level`, against a server, the database itself, wrong words, and servers that die or answer
// nonsense. It ends with 0 when it is done, 1 when it could not be done, 2 when it was not understood; what was there
// is there whole or as it was.
const server = useServer()
const folder = mkdtempSync(join(tmpdir(), 'handy-grid-trial-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const file = (name: string) => join(folder, name)

async function run(
  words: readonly string[],
  env: Record<string, string> = {},
): Promise<{ code: number | null; out: string; error: string }> {
  const child = spawn(process.execPath, ['scripts/level.mjs', ...words], {
    stdio: ['ignore', 'pipe', 'pipe'],
    env: { ...process.env, ...env },
  })
  const said = { out: '', error: '' }
  child.stdout.on('data', (text: Buffer) => (said.out += text.toString()))
  child.stderr.on('data', (text: Buffer) => (said.error += text.toString()))
  const [code] = (await once(child, 'close')) as [number | null]
  return { code, ...said }
}

/** A server that is not ours, while some work is done. */
async function besides<T>(
  answer: Parameters<typeof createServer>[1],
  work: (address: string) => Promise<T>,
): Promise<T> {
  const other = createServer(answer!)
  other.listen(0, '127.0.0.1')
  await once(other, 'listening')
  try {
    return await work(`http://127.0.0.1:${(other.address() as AddressInfo).port}`)
  } finally {
    other.closeAllConnections()
    other.close()
  }
}

describe('the command line', () => {
  it('says what it did not understand, and ends with 2', async () => {
    const cases: string[][] = [
      [],
      ['fly'],
      ['export'],
      ['export', 'x'],
      ['export', 'x', 'y.xyz'],
      ['export', 'x', 'y'],
      ['import'],
      ['watch', 'x'],
      ['list', '--wings'],
      ['export', 'x', 'y.glb', '--set', 'nothing'],
      ['export', 'x', 'y.glb', '--set', '=1'],
      ['list', '--server', 'http://127.0.0.1:9', '--database', 'postgres://x'],
      ['list', '--server', 'nowhere'],
      ['list', '--server'],
      ['export', 'x', 'y.glb', '--format', 'zip'],
    ]
    const ended = await Promise.all(cases.map(async words => ({ words, ...(await run(words)) })))
    for (const { words, code, error } of ended)
      expect([words, code, error]).toEqual([words, 2, expect.stringContaining('npm run level')])
  })

  it('says what could not be done, and ends with 1', async () => {
    writeFileSync(file('wrong.handygrid'), levelFile({ revision: -1 }))
    writeFileSync(file('noise.glb'), Buffer.from('glTF and nothing more'))
    await Promise.all(
      [
        ['--server', server.get().url],
        ['--database', server.get().databaseUrl],
      ].flatMap(target =>
        (
          [
            [['export', 'No such level', file('a.glb')], 'no level'],
            [['import', file('none.csv')], 'cannot be read'],
            [['import', file('wrong.handygrid')], 'revision'],
            [['import', file('noise.glb')], ''],
            [['export', 'Lantern Quay', file('a.glb'), '--set', 'wings=2'], 'wings'],
            [['export', 'Lantern Quay', join(folder, 'no folder', 'a.glb')], 'a.glb'],
            [['import', folder], 'cannot be read'],
          ] as const
        ).map(async ([words, says]) => {
          const { code, error } = await run([...words, ...target])
          expect([words, target[0], code, error, /\n\s+at /.test(error)]).toEqual([
            words,
            target[0],
            1,
            expect.stringContaining(says),
            false,
          ])
        }),
      ),
    )
    for (const target of [
      ['--server', 'http://127.0.0.1:9'],
      ['--database', 'postgres://nobody@127.0.0.1:9/none'],
    ]) {
      const { code, error } = await run(['list', ...target])
      expect([code, error]).toEqual([1, expect.stringMatching(/answer/)])
    }
  })

  it('leaves a file as it was when the server dies, or answers nonsense, while it is handed over', async () => {
    writeFileSync(file('kept.glb'), 'as it was')
    const levels = JSON.stringify({
      levels: [{ id: '00000000-0000-7000-8000-000000000001', name: 'One', revision: 1, placementCount: 1 }],
    })
    const answers: Parameters<typeof createServer>[1][] = [
      (request, response) => {
        if (request.url === '/api/levels') return void response.end(levels)
        response.writeHead(200, { 'content-length': '1000000', 'x-report': '%7B%7D' })
        response.write('glTF')
        setTimeout(() => response.destroy(), 50)
      },
      (request, response) => void response.end(request.url === '/api/levels' ? levels : 'no report'),
      (_, response) => void response.writeHead(200).end('<html>'),
      (_, response) => void response.writeHead(502).end('<html>'),
      (_, response) => void response.destroy(),
    ]
    for (const answer of answers) {
      const { code, error } = await besides(answer, address =>
        run(['export', 'One', file('kept.glb'), '--server', address]),
      )
      expect([code, error.length > 0, /\n\s+at /.test(error)]).toEqual([1, true, false])
    }
    expect(readdirSync(folder).filter(name => name.includes('.part'))).toEqual([])
    expect(readFileSync(file('kept.glb'), 'utf8')).toBe('as it was')
  })
})
