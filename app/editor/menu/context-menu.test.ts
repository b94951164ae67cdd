import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useCommands } from '../commands'
import { useLevel } from '../level'
import { useSettings } from '../settings'
import { FAVOURITE_ACTIONS, readSettings } from '../settings-schema'
import { testEditor } from '../test-editor'
import { testId } from '../../../tests/support'
import { useContextMenu } from './context-menu'

describe('the menu', () => {
  const did: string[] = []
  let canHide = true
  const does = (name: string) => () => void did.push(name)

  beforeEach(() => {
    testEditor([{ name: 'Crate' }])
    did.length = 0
    canHide = true
    useCommands().begin([
      {
        group: 'Some',
        commands: [
          { name: 'Hide it', run: does('Hide it'), can: () => canHide, on: ['thing', 'row'] },
          { name: 'Paste it', run: does('Paste it'), on: ['ground'] },
          { name: 'Turn it', run: does('Turn it'), on: ['handle', 'thing'] },
          { name: 'Sing', run: does('Sing') },
        ],
      },
    ])
  })

  const open = (place: 'thing' | 'ground' | 'handle' | 'row' | 'card') =>
    useContextMenu().open({ place, at: [0, 0], label: 'Some', things: null, deeds: [] })
  const said = () =>
    useContextMenu().sections.map(({ title, commands }) => [title, ...commands.map(({ name }) => name)])

  it('offers what can be done where it is asked for, and what is picked besides where that is elsewhere', async () => {
    open('row')
    expect(said()).toEqual([['What is picked', 'Hide it']])
    open('ground')
    expect(said()).toEqual([['Here', 'Paste it']])
    useLevel().pick([testId(1)])
    expect(said()).toEqual([
      ['Here', 'Paste it'],
      ['What is picked', 'Hide it', 'Turn it'],
    ])
    open('handle')
    expect(said()).toEqual([
      ['Handles', 'Turn it'],
      ['What is picked', 'Hide it', 'Turn it'],
    ])
    canHide = false
    open('card')
    await nextTick()
    expect(said()).toEqual([])
  })

  it('remembers the last five that were chosen, without those that are favourites or mean nothing now', () => {
    const [menu, commands] = [useContextMenu(), useCommands()]
    for (const name of ['Hide it', 'Sing', 'Paste it', 'Sing']) menu.choose(commands.find(name)!)
    expect(did).toEqual(['Hide it', 'Sing', 'Paste it', 'Sing'])
    open('card')
    expect(said()).toEqual([['Last used', 'Sing', 'Paste it', 'Hide it']])
    menu.toggleFavourite('Paste it')
    canHide = false
    open('card')
    expect(said()).toEqual([
      ['Favourites', 'Paste it'],
      ['Last used', 'Sing'],
    ])
    useSettings().kept.lastActions = ['a', 'b', 'c', 'd', 'e']
    menu.choose(commands.find('Sing')!)
    expect(useSettings().kept.lastActions).toEqual(['Sing', 'a', 'b', 'c', 'd'])
  })

  it('keeps favourites in the order they are put in, each at its place also while it means nothing', () => {
    const [menu, { kept }] = [useContextMenu(), useSettings()]
    for (const name of ['Hide it', 'Sing', 'Paste it']) menu.toggleFavourite(name)
    menu.moveFavourite('Paste it', 'Hide it')
    expect(kept.favouriteActions).toEqual(['Paste it', 'Hide it', 'Sing'])
    menu.moveFavourite('Paste it', 'Sing')
    expect(kept.favouriteActions).toEqual(['Hide it', 'Sing', 'Paste it'])
    menu.moveFavourite('Turn it', 'Sing')
    menu.moveFavourite('Sing', 'Turn it')
    expect(kept.favouriteActions).toEqual(['Hide it', 'Sing', 'Paste it'])
    menu.stepFavourite('Paste it', 1)
    menu.stepFavourite('Paste it', -1)
    expect(kept.favouriteActions).toEqual(['Hide it', 'Paste it', 'Sing'])
    canHide = false
    open('ground')
    expect(said()[0]).toEqual(['Favourites', 'Hide it', 'Paste it', 'Sing'])
    menu.toggleFavourite('Hide it')
    expect(kept.favouriteActions).toEqual(['Paste it', 'Sing'])
  })

  it('steps over favourites of another version, which are kept and not shown', () => {
    const [menu, { kept }] = [useContextMenu(), useSettings()]
    kept.favouriteActions = ['Sing', 'Fly to the moon', 'Paste it']
    open('ground')
    expect(said()[0]).toEqual(['Favourites', 'Sing', 'Paste it'])
    menu.stepFavourite('Paste it', -1)
    expect(kept.favouriteActions).toEqual(['Paste it', 'Sing', 'Fly to the moon'])
  })

  it('has room for so many favourites, and says when it is full', () => {
    const [menu, { kept }] = [useContextMenu(), useSettings()]
    kept.favouriteActions = Array.from({ length: FAVOURITE_ACTIONS }, (_, i) => `Action ${i}`)
    menu.toggleFavourite('Sing')
    expect(kept.favouriteActions).toHaveLength(FAVOURITE_ACTIONS)
    expect(useLevel().notice?.title).toContain('take one away first')
    expect(readSettings({ favouriteActions: 'Sing', lastActions: [7] })).toMatchObject({
      favouriteActions: [],
      lastActions: [],
    })
  })

  it('opens by key of what has the focus', () => {
    const asked = vi.fn()
    vi.stubGlobal(
      'MouseEvent',
      class {
        constructor(
          readonly type: string,
          readonly init: object,
        ) {}
      },
    )
    vi.stubGlobal('document', {
      activeElement: {
        closest: () => ({
          getBoundingClientRect: () => ({ left: 10, bottom: 40 }),
          dispatchEvent: (event: { type: string; init: object }) => asked(event.type, event.init),
        }),
      },
    })
    useContextMenu().openByKey()
    expect(asked).toHaveBeenCalledWith('contextmenu', expect.objectContaining({ clientX: 34, clientY: 36 }))
    vi.unstubAllGlobals()
  })
})
