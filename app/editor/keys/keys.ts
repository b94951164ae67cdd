import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { useSettings } from '../settings'
import type { KeyPress } from '../tools/gesture'
import type { Chord, KeyEvent } from './chord'
import { keyLabel, ReadyChord } from './chord'
import type { Clash } from './clashes'
import { clashesOf } from './clashes'
import type { KeyPlace, KeyUse, StageUse } from './stage-uses'
import { STAGE_USES } from './stage-uses'

/** Places in which other modifiers may be held besides: those of a drag, or of picking rows. */
const LOOSE: ReadonlySet<KeyPlace> = new Set<KeyPlace>(['drag', 'draw', 'fly', 'walk', 'list'])

/** What keys do, all in one register: actions by name, and what is heard on the stage and in the roster. */
export const useKeys = defineStore('keys', () => {
  const settings = useSettings()
  const actions = shallowRef<readonly KeyUse[]>([])
  /** What keys write on this keyboard, by their places; unknown in browsers that do not tell. */
  const written = shallowRef<ReadonlyMap<string, string>>()
  void navigatorKeyboard()
    ?.getLayoutMap()
    .then(map => (written.value = map))
    // A page that may not ask shows English letters, which is what it does where nothing is told.
    .catch(() => (written.value = undefined))

  /** What the sheet of keys is to be opened at, by name; nothing in particular if empty. */
  const sought = ref('')

  const uses = computed<readonly KeyUse[]>(() => [...actions.value, ...Object.values(STAGE_USES)])
  const byName = computed(() => new Map(uses.value.map(use => [use.name, use])))

  /** The keys of what is called so, the one that is shown first; ours as long as nobody has set others. */
  const keysOf = (name: string): readonly Chord[] => settings.kept.keys[name] ?? byName.value.get(name)?.keys ?? []

  /** Of each place what is heard there, what asks for more modifiers first. */
  const heard = computed(() => {
    const places = new Map<KeyPlace, { name: string; chord: ReadyChord }[]>()
    for (const { name, places: where } of uses.value)
      for (const place of where)
        for (const key of keysOf(name)) {
          const chord = new ReadyChord(key, LOOSE.has(place) ? 'loose' : 'exact')
          const there = places.get(place) ?? []
          there.push({ name, chord })
          places.set(place, there)
        }
    for (const there of places.values()) there.sort((a, b) => b.chord.modifiers - a.chord.modifiers)
    return places
  })

  /** What a key means somewhere, the likeliest first: what asks for fewer modifiers than another is not meant. */
  function meantAt(place: KeyPlace, event: KeyEvent): string[] {
    const found = (heard.value.get(place) ?? []).filter(({ chord }) => chord.isPressed(event, settings.kept.keysBy))
    return found.filter(({ chord }) => chord.modifiers === found[0]!.chord.modifiers).map(({ name }) => name)
  }

  /** Whether a key means something on the stage, wherever that is heard. */
  function isStageUse(use: StageUse, place: KeyPlace, event: KeyEvent): boolean {
    return meantAt(place, event).includes(STAGE_USES[use].name)
  }

  /** What one key means to whoever hears it; each place is looked through once. */
  function pressOf(event: KeyEvent): Omit<KeyPress, 'down'> {
    const found = new Map<KeyPlace, readonly string[]>()
    const isAt = (use: StageUse, place: KeyPlace) => {
      const names = found.get(place) ?? meantAt(place, event)
      found.set(place, names)
      return names.includes(STAGE_USES[use].name)
    }
    return {
      is: use => STAGE_USES[use].places.some(place => place !== 'page' && isAt(use, place)),
      isOnPage: use => isAt(use, 'page'),
    }
  }

  /** Takes what actions there are, in the place of those before. */
  function begin(all: readonly KeyUse[]): void {
    actions.value = all
  }

  /** Sets the keys of what is called so; ours again are not kept. */
  function assign(name: string, keys: readonly Chord[]): void {
    const ours = byName.value.get(name)?.keys ?? []
    const next = { ...settings.kept.keys }
    if (keys.join(' ') === ours.join(' ')) delete next[name]
    else next[name] = [...new Set(keys)]
    settings.kept.keys = next
  }

  /** Ours again, for one or for all. */
  function reset(name?: string): void {
    if (name === undefined) settings.kept.keys = {}
    else assign(name, byName.value.get(name)?.keys ?? [])
  }

  /** What is called otherwise and has a key where this is heard too. */
  function othersWith(name: string, key: Chord): KeyUse[] {
    const use = byName.value.get(name)
    if (!use) return []
    const asIf: KeyUse[] = uses.value.map(each => ({ ...each, keys: each.name === name ? [key] : keysOf(each.name) }))
    return clashesOf(asIf)
      .filter(({ names }) => names.includes(name))
      .flatMap(({ names }) => byName.value.get(names.find(other => other !== name)!) ?? [])
  }

  const clashes = computed<readonly Clash[]>(() =>
    clashesOf(uses.value.map(use => ({ ...use, keys: keysOf(use.name) }))),
  )

  /** A chord as this keyboard shows it. */
  const label = (chord: Chord) => keyLabel(chord, written.value)
  /** The key of what is called so, as it is shown; nothing while it has none. */
  const labelOf = (name: string): string | undefined => {
    const [first] = keysOf(name)
    return first === undefined ? undefined : label(first)
  }

  /** Of keys of ours, as they are shown, what each does; null where that is not one thing. */
  const byOurs = computed(() => {
    const names = new Map<string, string | null>()
    for (const { name, keys } of uses.value)
      for (const key of new Set(keys.map(each => keyLabel(each)))) names.set(key, names.has(key) ? null : name)
    return names
  })

  /** For a key of ours, as it is written on paper, the one that does the same as it is set. */
  const asSet = (ours: string): string => {
    const name = byOurs.value.get(ours)
    if (!name || keysOf(name).some(key => keyLabel(key) === ours)) return ours
    return labelOf(name) ?? 'no key'
  }

  /**
   * A text with keys in it, each meant by what it does: `{Undo} takes it back`; and with letters of axes: `the [Y]
   * dial`.
   */
  const said = (text: string): string =>
    settings.axes.text(text).replace(/\{([^{}]+)\}/g, (_, name: string) => labelOf(name) ?? 'no key')

  return {
    sought,
    uses,
    byName,
    clashes,
    keysOf,
    meantAt,
    isStageUse,
    pressOf,
    begin,
    assign,
    reset,
    othersWith,
    label,
    labelOf,
    asSet,
    said,
  }
})

/** What some browsers tell of the keyboard. */
type Keyboard = { getLayoutMap: () => Promise<ReadonlyMap<string, string>> }
const navigatorKeyboard = (): Keyboard | undefined =>
  typeof navigator === 'object' ? (navigator as Navigator & { keyboard?: Keyboard }).keyboard : undefined
