import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import type { PlayAnswer } from '../../core/api/play'
import { playAnswerSchema } from '../../core/api/play'
import type { Recipe } from '../../core/level/recipe'
import { change, freshId, newGroup, put, useServer } from './support'

const server = useServer()
const folder = mkdtempSync(join(tmpdir(), 'handy-grid-recipes-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const ASIDE: Recipe = {
  name: 'Aside and up',
  inputs: [{ name: 'gap', label: 'Gap', quantity: 'length', first: 1.5 }],
  steps: [
    { label: 'Move aside', does: [{ do: 'move', who: 'each', by: ['gap', 0, 0], exact: [] }] },
    {
      label: 'Copy it above',
      does: [{ do: 'make', of: 'placement', as: 'new1', like: 'each', by: [0, 'gap * 2', 0], exact: [], fields: {} }],
    },
  ],
}

async function levelWith(...names: string[]) {
  const { id } = await server.newLevel()
  const groups = names.map(name => newGroup({ name }))
  await server.save(id, 0, change(...groups.map(({ make }) => make)))
  return { id, ids: groups.map(({ placement }) => placement.id) }
}

async function play(id: string, body: object): Promise<PlayAnswer> {
  const { status, json, text } = await server.call('POST', `/api/levels/${id}/play`, body)
  expect(status, text).toBe(200)
  return playAnswerSchema.parse(json)
}
const named = async (id: string) => new Map((await server.level(id)).placements.map(each => [each.name, each]))

describe('recipes', () => {
  it('of a level are played by name on things by id and by name, as one change that can be taken back', async () => {
    const { id, ids } = await levelWith('Stall', 'Bench')
    const recipe = freshId()
    await server.save(id, 1, change({ do: 'put-recipe', id: recipe, fields: ASIDE }))
    expect((await server.level(id)).recipes).toEqual([{ id: recipe, ...ASIDE }])
    const looked = await play(id, {
      recipe: ASIDE.name,
      on: [ids[0]!],
      named: ['Bench'],
      inputs: { gap: 2 },
      dry: true,
    })
    expect(looked).toMatchObject({ change: null, operations: 4, revision: 2, made: [] })
    expect((await server.level(id)).revision).toBe(2)
    const asked = { recipe, on: [ids[0]!], named: ['Bench'], inputs: { gap: 2 }, author: 'Ada', change: freshId() }
    const done = await play(id, asked)
    expect(done).toMatchObject({ label: 'Play “Aside and up”', change: asked.change, revision: 3 })
    // Sent again it is the same, and done once.
    expect(await play(id, asked)).toMatchObject({
      change: asked.change,
      revision: 3,
      made: expect.arrayContaining(done.made) as string[],
    })
    const all = await named(id)
    expect(all.get('Stall')!.translation).toEqual([2, 0, 0])
    expect(all.get('Stall 1')).toMatchObject({ translation: [2, 4, 0], kind: 'group' })
    expect(all.get('Bench 1')!.translation).toEqual([2, 4, 0])
    const { json } = await server.call('GET', `/api/levels/${id}/back?to=2`)
    await server.save(id, 3, change(...(json as { operations: Parameters<typeof change> }).operations))
    expect([...(await named(id)).keys()].toSorted()).toEqual(['Bench', 'Stall'])
  })

  it('are refused with the step and the field, and change nothing', async () => {
    const { id, ids } = await levelWith('Stall', 'Stall')
    const refused = async (body: object, says: RegExp, status = 422) => {
      const error = await server.error('POST', `/api/levels/${id}/play`, body)
      expect([error.status, error.message]).toEqual([status, expect.stringMatching(says)])
    }
    const on = [ids[0]!]
    await refused({ recipe: 'Nothing', on }, /no recipe “Nothing”/)
    await refused({ recipe: ASIDE, on: [freshId()] }, /on: Nothing in the level/)
    await refused({ recipe: ASIDE, named: ['Stall'] }, /named: 2 things are called/)
    await refused({ recipe: ASIDE, named: ['Kiosk'] }, /named: Nothing is called/)
    await refused({ recipe: ASIDE, on, inputs: { width: 1 } }, /no input “width”/)
    await refused({ recipe: ASIDE, on, inputs: { gap: 1e300 } }, /Step 1: Stall: translation/)
    const [first, second] = ASIDE.steps
    const gone = { ...first!, does: [{ do: 'set', of: 'placement', who: 'each', fields: { layerId: freshId() } }] }
    await refused({ recipe: { ...ASIDE, steps: [second, gone] }, on }, /Step 2: .*its layer is gone/)
    const strange = { ...second!, does: [{ ...second!.does[0]!, fields: { partId: freshId(), kind: 'part' } }] }
    await refused({ recipe: { ...ASIDE, steps: [strange] }, on }, /Step 1: .*not in the kit any more/)
    const sum = { ...first!, does: [{ ...first!.does[0]!, by: ['constructor', 0, 0] }] }
    await refused({ recipe: { ...ASIDE, steps: [sum] }, on }, /Step 1: The sum “constructor”/)
    const deep = JSON.parse(`${'{"a":'.repeat(30)}1${'}'.repeat(30)}`) as object
    await refused({ recipe: { ...ASIDE, steps: [{ ...gone, does: [{ ...gone.does[0]!, fields: deep }] }] }, on }, /./)
    expect((await server.level(id)).revision).toBe(1)
    const none = await server.error('POST', `/api/levels/${freshId()}/play`, { recipe: ASIDE })
    expect(none.status).toBe(404)
  })

  it('are played from the command line, on a server and straight on the database', async () => {
    const { id } = await levelWith('Stall')
    const file = join(folder, 'aside.json')
    writeFileSync(file, JSON.stringify({ format: 'handy-grid recipe', version: 1, recipe: ASIDE }))
    const run = (...words: string[]) =>
      spawnSync(process.execPath, ['scripts/level.mjs', 'play', id, ...words], { encoding: 'utf8' })
    for (const [i, target] of [
      ['--server', server.get().url],
      ['--database', server.get().databaseUrl],
    ].entries()) {
      const { status, stdout, stderr } = run(file, '--on', 'Stall', '--input', 'gap=0.5', ...target)
      expect([status, stderr, stdout]).toEqual([0, '', expect.stringContaining(`1 made; change ${i + 2}`)])
    }
    expect((await named(id)).get('Stall')!.translation).toEqual([1, 0, 0])
    const target = ['--server', server.get().url]
    expect(run(file, '--on', 'Kiosk', ...target)).toMatchObject({ status: 1 })
    expect(run(file, '--input', 'gap', ...target)).toMatchObject({ status: 2 })
    expect(run('Nothing', ...target).stderr).toContain('no recipe “Nothing”')
    expect(run(join(folder, 'none.json'), ...target)).toMatchObject({ status: 1 })
  })

  it('and presets are kept with a level, go out with it and come in again', async () => {
    const { id } = await levelWith('Stall')
    const preset = {
      id: freshId(),
      form: 'line',
      name: 'Long row',
      values: { count: 12, along: [0, 0, 1.5] },
      picture: null,
    }
    const { id: presetId, ...fields } = preset
    await server.save(
      id,
      1,
      change({ do: 'put-preset', id: presetId, fields }, { do: 'put-recipe', id: freshId(), fields: ASIDE }),
    )
    await server.save(id, 2, change({ do: 'put-preset', id: presetId, fields: { name: 'Longer row' } }))
    const file = new Uint8Array(
      await (await fetch(`${server.get().url}/api/levels/${id}/export.handygrid`)).arrayBuffer(),
    )
    const brought = await fetch(`${server.get().url}/api/import?name=Brought`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    })
    const { levelId } = (await brought.json()) as { levelId: string }
    const level = await server.level(levelId)
    expect(level.presets.map(({ id: _id, ...each }) => each)).toEqual([{ ...fields, name: 'Longer row' }])
    expect(level.recipes.map(({ id: _id, ...each }) => each)).toEqual([ASIDE])
    const duplicate = await server.newLevel(id)
    expect((await server.level(duplicate.id)).presets).toHaveLength(1)
    await server.save(
      id,
      3,
      change({ do: 'remove-preset', id: presetId }, put((await server.level(id)).placements[0]!.id, { hidden: true })),
    )
    expect((await server.level(id)).presets).toEqual([])
    for (const wrong of [
      { picture: 'data:image/svg+xml;base64,AAAA' },
      { form: 'Line' },
      { values: [] },
      { name: '<b>' },
    ]) {
      const { status } = await server.call('POST', `/api/levels/${id}/changes`, {
        baseRevision: 4,
        changes: [change({ do: 'put-preset', id: freshId(), fields: { ...fields, ...wrong } as never })],
      })
      expect(status).toBe(422)
    }
  })
})
