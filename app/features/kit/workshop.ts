import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { Matrix4 } from 'three'
import { v7 } from 'uuid'
import type { PartUses } from '~~/core/api/schema'
import type { LevelView } from '~~/core/scene/level-view'
import { mergeOperations } from '~~/core/level/merge'
import { relationsIn } from '~~/core/relate/graph'
import { asName } from '~~/core/units/text'
import { api } from '~/api/client'
import { useKit } from '~/editor/kit'
import type { Notice } from '~/editor/level'
import { useLevel } from '~/editor/level'
import { readLevel } from '~/editor/reading/read-level'
import { useAuth } from '~/editor/auth'
import { useStageSession } from '~/editor/stage-session'
import { orNothing } from '~/errors/or-nothing'
import { counted } from '~~/core/units/plural'

/** The level around the thing that is worked on, as it lies around the part's own axes. */
export type LevelAround = { view: LevelView; matrix: Matrix4; leaveOut: string }

/** A part opened to be worked on: its workshop is a level of its own, with the level it was opened from around it. */
export const useWorkshop = defineStore('workshop', () => {
  const level = useLevel()
  const kit = useKit()
  const auth = useAuth()
  const session = useStageSession()
  const uses = shallowRef<PartUses | null>(null)
  const surroundings = shallowRef<LevelAround | null>(null)
  /** The revision of the workshop that the part shows. */
  const madeOf = ref(0)
  const isBusy = ref(false)
  /** Said when the level is open again. */
  let afterwards: Notice | null = null
  /** Parts that were made anew, which things may be kept on. */
  let anew: { name: string; parts: ReadonlySet<string> } | null = null
  /** The level that was left for a workshop, with what its scatters have dealt. */
  let left: { id: string; view: LevelView } | null = null

  const partId = computed(() => level.summary?.partId ?? null)
  const part = computed(() => (partId.value === null ? undefined : kit.part(partId.value)))
  /** Whether something in it is other than the part shows. */
  const isChanged = computed(() => level.saving.kind !== 'saved' || level.saving.revision !== madeOf.value)

  /** What is kept on parts that were made anew follows them, once the level is open again. */
  function followAnew(): void {
    if (!anew) return
    const { name, parts } = anew
    anew = null
    const isAnew = (id: string) => parts.has(level.view.get(id)?.partId ?? '')
    level.followShown(asName(`Keep on ${name}`), [...relationsIn(level.view).heldBy.keys()].filter(isAnew))
  }

  /** Opens a part, from one of its placements or from the kit. */
  async function open(id: string, placementId: string | null): Promise<void> {
    const from = level.summary?.id
    await kit.online(async () => {
      await level.settled()
      const { levelId } = await api.openPart(id)
      if (from !== undefined) {
        left = { id: from, view: level.view }
        session.keepPose(from)
        if (placementId !== null) session.keepPose(levelId, level.view.worldMatrix(placementId).clone().invert())
      }
      await navigateTo({ path: `/levels/${levelId}`, query: { from, at: placementId ?? undefined } })
    }, level.notify)
  }

  /** Lets go of the level that was left, once nobody is on the way to its workshop or back. */
  function letGo(): void {
    left = null
    surroundings.value = null
    uses.value = null
  }

  /** Gets ready what is around a workshop that was opened; for any other level there is nothing around. */
  async function enter(query: { from?: string; at?: string }): Promise<void> {
    surroundings.value = null
    uses.value = null
    level.partsAround = new Set()
    if (afterwards) level.notify(afterwards.title, afterwards.lines, afterwards.again)
    afterwards = null
    if (partId.value === null) {
      followAnew()
      // Back from a workshop, the level is the open one again.
      left = null
      return
    }
    madeOf.value = (await api.openPart(partId.value)).madeOf
    uses.value = await api.usesOfPart(partId.value)
    level.partsAround = await allAround(partId.value, uses.value)
    if (query.from === undefined || query.at === undefined) return
    const view = left?.id === query.from ? left.view : await fetchLevel(query.from)
    if (!view?.has(query.at)) return
    const around = { view, matrix: view.worldMatrix(query.at).clone().invert(), leaveOut: query.at }
    surroundings.value = around
    // Nobody waits for it: until it is there, things are snapped to those of the workshop.
    void level.surroundBy(view, { matrix: around.matrix, without: around.leaveOut }).catch(orNothing)
  }

  async function fetchLevel(id: string): Promise<LevelView | null> {
    const found = await readLevel(id).catch(orNothing)
    if (found) await kit.loadMissing([...new Set(found.content.placements.flatMap(({ partId }) => partId ?? []))])
    return found && level.session.around(found.content.placements, found.content)
  }

  /** A part and all parts it is in, however deep: none of them can be put into it. */
  async function allAround(id: string, { parts }: PartUses): Promise<ReadonlySet<string>> {
    const found = new Set([id])
    const waiting = parts.map(each => each.id)
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      if (found.has(at)) continue
      found.add(at)
      waiting.push(...(await api.usesOfPart(at)).parts.map(each => each.id))
    }
    return found
  }

  /** Where the workshop was opened from. */
  const wayBack = () => {
    const { from } = useRoute().query
    return navigateTo(typeof from === 'string' ? `/levels/${from}` : '/')
  }

  /** Makes the part of what is in the workshop now; all instances everywhere follow. */
  async function finish(): Promise<void> {
    const [id, levelId, name, before] = [partId.value, level.summary?.id, part.value?.name ?? '', madeOf.value]
    if (id === null || levelId === undefined) return
    await busy(async () => {
      await level.settled()
      if (level.saving.kind !== 'saved')
        return level.notify('This needs the server', ['Nothing is lost; try again when your changes are saved.'])
      const changed = await kit.remake(id)
      const others = changed.slice(1).map(each => each.name)
      afterwards = {
        title: `${name} was changed`,
        lines: [whereUsed(uses.value), ...(others.length > 0 ? [`Made anew as well: ${others.join(', ')}.`] : [])],
        again: {
          label: 'Take it back',
          run: () => void kit.online(() => takeBack(id, levelId, before, name), level.notify),
        },
      }
      anew = { name, parts: new Set(changed.map(each => each.id)) }
      await wayBack()
    })
  }

  /** Leaves the part as it was: what was done in the workshop is taken back, which is a change itself. */
  async function dismiss(): Promise<void> {
    await busy(async () => {
      await level.settled()
      if (isChanged.value) await level.goBack({ revision: madeOf.value, label: 'as the part is' })
      await level.settled()
      if (level.saving.kind === 'saved' && partId.value !== null) await wayBack()
    })
  }

  async function busy(work: () => Promise<void>): Promise<void> {
    isBusy.value = true
    await kit.online(work, level.notify)
    isBusy.value = false
  }

  async function takeBack(id: string, levelId: string, revision: number, name: string): Promise<void> {
    const back = await api.back(levelId, revision)
    const operations = mergeOperations(back.operations)
    if (operations.length > 0)
      await api.saveChanges(levelId, {
        baseRevision: back.revision,
        changes: [{ id: v7(), label: asName(`Back to ${name} as it was`), author: auth.name, operations }],
      })
    await kit.remake(id)
    const here = level.summary?.id
    if (here !== undefined) session.keepPose(here)
    afterwards = { title: `${name} is as it was`, lines: [] }
    level.reopen()
  }

  return { partId, part, uses, surroundings, isChanged, isBusy, open, enter, letGo, finish, dismiss }
})

/** "40 things in 2 levels: Quay (38), Bridge (2)". */
export function whereUsed(uses: PartUses | null): string {
  if (!uses) return ''
  const all = [...uses.levels, ...uses.parts]
  const count = all.reduce((sum, { placements }) => sum + placements, 0)
  if (count === 0) return 'It is placed nowhere.'
  const places = [
    uses.levels.length > 0 ? `${counted(uses.levels.length, 'level')}` : '',
    uses.parts.length > 0 ? `${counted(uses.parts.length, 'part')}` : '',
  ]
    .filter(Boolean)
    .join(' and ')
  return `${counted(count, 'thing')} in ${places}: ${all
    .slice(0, 4)
    .map(({ name, placements }) => `${name} (${placements})`)
    .join(', ')}${all.length > 4 ? ' …' : ''}`
}
