import { defineStore } from 'pinia'
import { shallowRef } from 'vue'

/** Something that is done by a key or by its name. */
export type Command = {
  name: string
  /** As `keyName` writes it. */
  key?: string
  run: () => void
  /** The browser answers the key with an event of its own, which is listened for. */
  byBrowser?: true
  /** Whether it means something now; always if left out. */
  can?: () => boolean
}

/** Everything that can be done by a key or by name, in one list for the keys, find or do, and the menus. */
export const useCommands = defineStore('commands', () => {
  const all = shallowRef<readonly Command[]>([])
  let byKey: ReadonlyMap<string, Command> = new Map()

  /**
   * Takes the commands there are, in the place of those before.
   *
   * @throws RangeError if one key is to do two things, or two things are called alike
   */
  function begin(commands: readonly Command[]): void {
    byKey = commandsByKey(commands)
    all.value = commands
  }

  const can = (command: Command) => command.can?.() ?? true

  /** What means something now. */
  const possible = () => all.value.filter(can)

  /** What a key does now, if it means anything. */
  function forKey(key: string): Command | null {
    const command = byKey.get(key)
    return command && can(command) ? command : null
  }

  /** Does what has a name, for whoever does not know who does it. @throws RangeError if nothing has it */
  function run(name: string): void {
    const command = all.value.find(each => each.name === name)
    if (!command) throw new RangeError(`nothing is called "${name}"`)
    command.run()
  }

  return { all, begin, possible, forKey, run }
})

/** Those that a key does. @throws RangeError if one key is to do two things, or two things are called alike */
export function commandsByKey(commands: readonly Command[]): ReadonlyMap<string, Command> {
  const [byKey, names] = [new Map<string, Command>(), new Set<string>()]
  for (const command of commands) {
    const { name, key } = command
    if (names.has(name)) throw new RangeError(`two commands are called "${name}"`)
    names.add(name)
    if (!key) continue
    const other = byKey.get(key)
    if (other) throw new RangeError(`${key} does "${other.name}" already, and cannot do "${name}"`)
    byKey.set(key, command)
  }
  for (const [key, { byBrowser }] of byKey) if (byBrowser) byKey.delete(key)
  return byKey
}
