import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import type { Chord, KeyEvent } from './keys/chord'
import { clashesOf } from './keys/clashes'
import { useKeys } from './keys/keys'
import type { KeyUse } from './keys/stage-uses'
import type { MenuPlace } from './menu/menu-places'
import { STAGE_USES } from './keys/stage-uses'

/** Something that is done by a key or by its name. */
export type Command = {
  name: string
  /** Ours; what is set by whoever works with it goes before. */
  key?: Chord
  /** Further keys of ours. */
  also?: readonly Chord[]
  run: () => void
  /** The browser answers the key with an event of its own, which is listened for; it cannot be another. */
  byBrowser?: true
  /** It ends whatever has the stage to itself. */
  ends?: true
  /** Whether it means something now; always if left out. */
  can?: () => boolean
  /** Where a menu offers it besides the list of all. */
  on?: readonly MenuPlace[]
}

/** Commands that belong together, in a list of all. */
export type CommandGroup = { group: string; commands: readonly Command[] }

/** Everything that can be done by a key or by name, in one list for the keys, find or do, and the menus. */
export const useCommands = defineStore('commands', () => {
  const keys = useKeys()
  const groups = shallowRef<readonly CommandGroup[]>([])
  const all = computed(() => groups.value.flatMap(({ commands }) => commands))
  const byName = computed(() => new Map(all.value.map(command => [command.name, command])))
  let ours: readonly CommandGroup[] = []

  /**
   * Takes the commands there are, in the place of those before.
   *
   * @throws RangeError if one of our keys is to do two things, or two things are called alike
   */
  function begin(given: readonly CommandGroup[]): void {
    keys.begin(usesOf(given))
    ours = given
    groups.value = given.filter(({ commands }) => commands.length > 0)
  }

  /** Takes what can be done besides, as somebody has made it; what is called as something else is left out. */
  function extend(given: readonly CommandGroup[]): void {
    const names = new Set(ours.flatMap(({ commands }) => commands.map(({ name }) => name)))
    const more = given.map(({ group, commands }) => ({
      group,
      commands: commands.filter(({ name }) => !names.has(name) && names.add(name)),
    }))
    const both = [...ours, ...more]
    keys.begin(usesOf(both))
    groups.value = both.filter(({ commands }) => commands.length > 0)
  }

  /** What is called so, if anything is. */
  const find = (name: string): Command | undefined => byName.value.get(name)

  const can = (command: Command) => command.can?.() ?? true

  /** What means something now. */
  const possible = () => all.value.filter(can)

  /** What a key does now, if it means anything. */
  function forEvent(event: KeyEvent): Command | null {
    const meant = keys.meantAt('page', event).flatMap(name => byName.value.get(name) ?? [])
    return meant.find(command => !command.byBrowser && can(command)) ?? null
  }

  /** Does what has a name, for whoever does not know who does it. @throws RangeError if nothing has it */
  function run(name: string): void {
    const command = byName.value.get(name)
    if (!command) throw new RangeError(`nothing is called "${name}"`)
    command.run()
  }

  return { all, groups, begin, extend, find, can, possible, forEvent, run }
})

/** Commands as uses of keys. @throws RangeError if one of our keys is to do two things, or two are called alike */
export function usesOf(groups: readonly CommandGroup[]): KeyUse[] {
  const uses = groups.flatMap(({ group, commands }) =>
    commands.map(({ name, key, also = [], byBrowser }): KeyUse => {
      const keys = key === undefined ? [] : [key, ...also]
      return { name, group, places: ['page'], keys, ...(byBrowser && { isFixed: true as const }) }
    }),
  )
  const names = new Set<string>()
  for (const { name } of [...uses, ...Object.values(STAGE_USES)]) {
    if (names.has(name)) throw new RangeError(`two commands are called "${name}"`)
    names.add(name)
  }
  const [clash] = clashesOf([...uses, ...Object.values(STAGE_USES)])
  if (clash) throw new RangeError(`${clash.key} does "${clash.names[0]}" already, and cannot do "${clash.names[1]}"`)
  return uses
}
