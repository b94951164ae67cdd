import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { Chord } from '~/editor/keys/chord'
import { isKeptByBrowser } from '~/editor/keys/clashes'
import { useKeys } from '~/editor/keys/keys'
import { readKeysFile, writeKeys } from '~/editor/keys/keys-file'
import type { KeyUse } from '~/editor/keys/stage-uses'
import { groupsOf } from '~/editor/keys/stage-uses'
import { useSettings } from '~/editor/settings'

/** Why a key that was pressed was not taken yet: others have it, or the browser has. */
export type Problem = { of: string; key: Chord; others: readonly KeyUse[] }

/** Looking for keys, and setting them. */
export const useSettingKeys = defineStore('setting-keys', () => {
  const keys = useKeys()
  const settings = useSettings()
  const isOpen = ref(false)
  const isPointingOpen = ref(false)
  const text = ref('')
  /** Only what has this key. */
  const byKey = ref<Chord | null>(null)
  const onlyClashing = ref(false)
  /** What the next key is for: an action by name, or looking for what has it. */
  const waitsFor = ref<{ assign: string } | 'look' | null>(null)
  const problem = shallowRef<Problem | null>(null)
  const told = ref('')
  const failed = ref('')

  const clashing = computed(() => new Set(keys.clashes.flatMap(({ names }) => names)))

  /** What is looked for, by the groups that it is in. */
  const groups = computed(() => {
    const words = text.value.trim().toLowerCase().split(/\s+/).filter(Boolean)
    const found = keys.uses.filter(
      ({ name, group }) =>
        words.every(word => `${name} ${group}`.toLowerCase().includes(word))
        && (byKey.value === null || keys.keysOf(name).some(key => keys.label(key) === keys.label(byKey.value!)))
        && (!onlyClashing.value || clashing.value.has(name)),
    )
    return groupsOf(found)
  })
  const isLookedFor = computed(() => text.value.trim() !== '' || byKey.value !== null || onlyClashing.value)

  function open(): void {
    text.value = keys.sought
    keys.sought = ''
    told.value = ''
    failed.value = ''
    byKey.value = null
    onlyClashing.value = false
    waitsFor.value = null
    problem.value = null
    isOpen.value = true
  }

  /** Takes the key that was waited for. */
  function take(key: Chord): void {
    const what = waitsFor.value
    waitsFor.value = null
    if (what === 'look') byKey.value = key
    else if (what) add(what.assign, key)
  }

  function add(name: string, key: Chord): void {
    const others = keys.othersWith(name, key)
    problem.value = others.length > 0 || isKeptByBrowser(key) ? { of: name, key, others } : null
    if (!problem.value) keys.assign(name, [...keys.keysOf(name), key])
  }

  function remove(name: string, key: Chord): void {
    keys.assign(
      name,
      keys.keysOf(name).filter(each => each !== key),
    )
    problem.value = null
  }

  /** `swap`: the others get what this had first; `take`: they go without; `both`: whichever can be done is done. */
  function settle(how: 'swap' | 'take' | 'both'): void {
    const asked = problem.value
    if (!asked) return
    problem.value = null
    const { of: name, key, others } = asked
    const before = keys.keysOf(name)
    const same = (other: Chord) => keys.label(other) === keys.label(key)
    if (how !== 'both')
      for (const other of others)
        keys.assign(
          other.name,
          keys.keysOf(other.name).flatMap(each => (!same(each) ? each : how === 'swap' ? before.slice(0, 1) : [])),
        )
    keys.assign(name, how === 'swap' ? [key, ...before.slice(1)] : [...before, key])
  }

  /** All of them as a file's text. */
  const asFile = () => writeKeys({ by: settings.kept.keysBy, keys: settings.kept.keys })

  /** Takes keys from a file; what is wrong with it is said, and then nothing is taken. */
  async function takeFile(file: Blob): Promise<void> {
    told.value = ''
    failed.value = ''
    const read = await readKeysFile(file)
    if (!read.ok) {
      failed.value = `This file was not taken, and no key was changed. ${read.error}`
      return
    }
    const known = Object.entries(read.set.keys).filter(([name]) => keys.byName.get(name)?.isFixed === undefined)
    const there = known.filter(([name]) => keys.byName.has(name))
    settings.kept.keysBy = read.set.by
    keys.reset()
    for (const [name, given] of there) keys.assign(name, given)
    const left = Object.keys(read.set.keys).filter(name => !there.some(([each]) => each === name))
    told.value = [
      `${there.length} are set by the file.`,
      left.length > 0 ? `Nothing here is called ${left.slice(0, 3).join(', ')}${left.length > 3 ? ' …' : ''}.` : '',
      keys.clashes.length > 0 ? 'Some keys do two things now: they are listed.' : '',
    ]
      .filter(Boolean)
      .join(' ')
    onlyClashing.value = keys.clashes.length > 0
  }

  return {
    isOpen,
    isPointingOpen,
    text,
    byKey,
    onlyClashing,
    waitsFor,
    problem,
    told,
    failed,
    clashing,
    groups,
    isLookedFor,
    open,
    take,
    remove,
    settle,
    asFile,
    takeFile,
  }
})
