import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { once } from 'node:events'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { validateBytes } from 'gltf-validator'
import { eq } from 'drizzle-orm'
import { afterAll, describe, expect, it } from 'vitest'
import { people as peopleTable } from '../../server/db/schema'
import { change, freshId, newGroup, put, useServer } from './support'

const server = useServer()
const folder = mkdtempSync(join(tmpdir(), 'handy-grid-command-line-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const file = (name: string) => join(folder, name)

function start(words: readonly string[], script = 'scripts/level.mjs') {
  const child = spawn(process.execPath, [script, ...words], { stdio: ['ignore', 'pipe', 'pipe'] })
  const said = { out: '', error: '' }
  child.stdout.on('data', (text: Buffer) => (said.out += text.toString()))
  child.stderr.on('data', (text: Buffer) => (said.error += text.toString()))
  return { child, said }
}

async function run(...words: string[]) {
  const { child, said } = start(words)
  const [code] = (await once(child, 'close')) as [number]
  return { code, ...said }
}

describe('from the command line', () => {
  it('says what became of a level since another and since a milestone, with an exit code for builds', async () => {
    const { id } = await server.newLevel()
    const [post, bench] = [newGroup({ name: 'Post' }), newGroup({ name: 'Bench' })]
    await server.save(id, 0, change(post.make, bench.make))
    await server.call('POST', `/api/levels/${id}/milestones`, { id: freshId(), name: 'Both stand', by: 'Ada' })
    const copy = await server.newLevel(id)
    await server.call('PATCH', `/api/levels/${id}`, { name: `Compared ${id}` })
    for (const target of [
      ['--server', server.get().url],
      ['--database', server.get().databaseUrl],
    ]) {
      const same = await run('compare', copy.id, id, ...target)
      expect([same.code, same.error, same.out]).toEqual([0, '', expect.stringContaining('the same')])
    }
    await server.save(
      id,
      1,
      change(put(post.placement.id, { translation: [3, 0, 4] }), { do: 'remove', id: bench.placement.id }),
    )
    for (const target of [
      ['--server', server.get().url],
      ['--database', server.get().databaseUrl],
    ]) {
      const found = await run('compare', `Compared ${id}@Both stand`, id, ...target)
      expect([found.code, found.error]).toEqual([3, ''])
      expect(found.out).toContain('1 gone, 1 moved')
      expect(found.out).toContain('thing Post: moved by 5 m')
    }
    const target = ['--server', server.get().url]
    const json = await run('compare', copy.id, id, '--as', 'json', ...target)
    expect([json.code, (JSON.parse(json.out) as { counts: object }).counts]).toMatchObject([3, { gone: 1, moved: 1 }])
    const csv = await run('compare', copy.id, id, '--as', 'csv', ...target)
    expect(csv.out.split('\r\n')[0]).toBe('kind,name,id,what,moved (m),turned (deg),field,from,to')
    expect(await run('compare', copy.id, ...target)).toMatchObject({ code: 2 })
    expect(await run('compare', copy.id, id, '--as', 'xml', ...target)).toMatchObject({ code: 2 })
    expect(await run('compare', `${id}@Nothing`, id, ...target)).toMatchObject({
      code: 1,
      error: expect.stringContaining('There is no milestone "Nothing"') as string,
    })
  })

  it('a level goes out in every format and comes in again, on a server and straight on the database', async () => {
    const { id } = await server.newLevel('demo')
    const all = ['a.glb', 'a.usda', 'a.usdz', 'a.csv', 'a.tsv', 'a.handygrid', 'a.svg', 'a.pdf']
    for (const [target, names] of [
      [['--server', server.get().url], all],
      [
        ['--database', server.get().databaseUrl],
        ['a.glb', 'a.csv', 'a.handygrid'],
      ],
    ] as const) {
      for (const name of names) {
        const { code, out, error } = await run('export', id, file(name), ...target)
        expect([name, code, error]).toEqual([name, 0, ''])
        expect(out).toContain('bytes')
        expect(statSync(file(name)).size).toBeGreaterThan(1000)
      }
      expect((await run('export', id, file('bill.csv'), '--format', 'bill', ...target)).code).toBe(0)
      expect(readFileSync(file('bill.csv'), 'utf8')).toContain('triangles')
      const instanced = await run(
        'export',
        id,
        file('i.glb'),
        '--set',
        'instanced=true',
        '--set',
        'compression=meshopt',
        ...target,
      )
      expect([
        instanced.code,
        (await validateBytes(new Uint8Array(readFileSync(file('i.glb'))))).issues.numErrors,
      ]).toEqual([0, 0])
      const brought = await run('import', file('a.handygrid'), '--name', `Again by ${target[0]}`, ...target)
      expect([brought.code, brought.out]).toEqual([0, expect.stringContaining('139 things')])
      expect((await run('list', ...target)).out).toContain(`Again by ${target[0]}`)
    }
  })

  it('it ends with 1 when it cannot be done, with 2 when it is not understood, and says why', async () => {
    const target = ['--server', server.get().url]
    const { id } = await server.newLevel('demo')
    writeFileSync(file('wrong.csv'), 'name,part,x\nA,Barrel,far\n')
    writeFileSync(file('empty.glb'), '')
    for (const [words, code, says] of [
      [['export', 'No such level', file('x.glb'), ...target], 1, 'no level'],
      [['export', id, file('x.glb'), '--set', 'compression=zip', ...target], 1, 'compression'],
      [['import', file('wrong.csv'), '--into', id, ...target], 1, 'line 2, column 3'],
      [['import', file('empty.glb'), ...target], 1, 'empty'],
      [['import', file('none.glb'), ...target], 1, 'cannot be read'],
      [['export', id, file('x.glb'), '--server', 'http://127.0.0.1:9'], 1, 'No server answers'],
      [['export', id, file('x.obj'), ...target], 2, 'No format'],
      [['fly', ...target], 2, 'no command'],
      [['export', id, '--wings', ...target], 2, 'wings'],
      [[], 2, 'What is to be done'],
    ] as [string[], number, string][]) {
      const ended = await run(...words)
      expect([words[0], ended.code, ended.error]).toEqual([words[0], code, expect.stringContaining(says)])
    }
  })

  it('it watches a level, and writes the file again after each change', async () => {
    const { id } = await server.newLevel()
    const { child, said } = start(['watch', id, file('watched.glb'), '--server', server.get().url])
    const names = async (wanted: string) => {
      for (let tries = 0; tries < 100; tries++) {
        await sleep(200)
        if (said.error) throw new Error(said.error)
        try {
          if (readFileSync(file('watched.glb')).includes(wanted)) return true
        } catch {
          // Not there yet.
        }
      }
      return false
    }
    try {
      expect(await names('Test level')).toBe(true)
      await server.save(id, 0, change(newGroup({ name: 'Came later' }).make))
      expect(await names('Came later')).toBe(true)
    } finally {
      child.kill('SIGTERM')
    }
  })
})

describe('people from the command line', () => {
  const people = async (...words: string[]) => {
    const { child, said } = start(words, 'scripts/people.mjs')
    const [code] = (await once(child, 'close')) as [number]
    return { code, ...said }
  }

  it('are let in, given roles and keys, and ended, on a server and straight on the database', async () => {
    const { id } = await server.newLevel()
    const { db, url, databaseUrl } = server.get()
    for (const [i, target] of [
      ['--server', url],
      ['--database', databaseUrl],
    ].entries()) {
      const name = `Person ${i}`
      const made = await people('let-in', name, '--role', 'note', ...target)
      expect([made.code, made.error]).toEqual([0, ''])
      const key = new RegExp(`^${name}: ([\\w-]{43})$`, 'm').exec(made.out)![1]!
      expect((await people('let-in', name.toUpperCase(), ...target)).error).toContain('somebody else is called so')
      expect((await people('role', name, 'work', ...target)).code).toBe(0)
      expect((await people('role', name, 'look', '--in', id, ...target)).code).toBe(0)
      expect((await people('list', ...target)).out).toContain(`${name}  work; look in ${id}`)
      expect((await people('role', name, 'same', '--in', id, ...target)).code).toBe(0)
      const renewed = await people('new-key', name, ...target)
      expect(renewed.out).not.toContain(key)
      expect((await people('end', name, ...target)).code).toBe(0)
      expect((await people('list', ...target)).out).toMatch(new RegExp(`${name}  ended`))
      expect((await people('log', ...target)).out.split('\n')[0]).toContain(`ended ${name}`)
      const [row] = await db.select().from(peopleTable).where(eq(peopleTable.name, name))
      expect(row).toMatchObject({ role: 'work', keyHash: null })
      expect(row!.endedAt).not.toBeNull()
    }
  })

  it('that make no sense are refused: 2 for what is not understood, 1 for what cannot be done', async () => {
    const target = ['--server', server.get().url]
    for (const [words, code, says] of [
      [[], 2, 'What is to be done?'],
      [['dance'], 2, '"dance" is no command'],
      [['let-in'], 2, 'Whom?'],
      [['role', 'Person 0'], 2, 'Which role?'],
      [['end'], 2, 'Which person?'],
      [['end', 'Nobody'], 1, 'There is no person "Nobody"'],
      [['let-in', 'X', '--role', 'owner'], 1, 'role'],
      [['constructor'], 2, 'is no command'],
    ] as const) {
      const answer = await people(...words, ...target)
      expect([words, answer.code, answer.error]).toEqual([words, code, expect.stringContaining(says)])
    }
  })
})
