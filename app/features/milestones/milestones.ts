import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { v7 } from 'uuid'
import type { Milestone } from '~~/core/api/milestones'
import type { ListedLevel } from '~~/core/api/schema'
import { counted } from '~~/core/units/plural'
import { asName } from '~~/core/units/text'
import { api, ServerAway, whatFailed } from '~/api/client'
import { orNothing } from '~/errors/or-nothing'
import { useAuth } from '~/editor/auth'
import { useKit } from '~/editor/kit'
import { CHANGED_MEANWHILE, useLevel } from '~/editor/level'
import { useStageSession } from '~/editor/stage-session'
import { useComparing } from './comparing'
import type { Which } from './compare-work'
import type { Other } from './states'
import { ComparedStates } from './states'

/** Pixels of a milestone's picture. */
const [WIDTH, HEIGHT] = [480, 300]

/** The milestones of the open level, its variants, and what can be done with them. */
export const useMilestones = defineStore('milestones', () => {
  const level = useLevel()
  const auth = useAuth()
  const kit = useKit()
  const session = useStageSession()
  const comparing = useComparing()

  const isOpen = ref(false)
  const isComparingOpen = ref(false)
  /** Which earlier state is to be named; the level as it is if null. */
  const earlier = shallowRef<{ revision: number; label: string } | null>(null)
  const all = shallowRef<readonly Milestone[] | null>(null)
  /** The other levels, for comparing with one; variants of this one, and what it is one of, among them. */
  const levels = shallowRef<readonly ListedLevel[]>([])
  const failed = ref('')
  const isWorking = ref(false)
  const mayMake = computed(() => auth.may('work') && level.partsAround.size === 0)

  /** Does something that needs the server; what fails is said in the sheet. @returns whether it was done */
  async function attempt(work: () => Promise<void>): Promise<boolean> {
    failed.value = ''
    isWorking.value = true
    try {
      await work()
      return true
    } catch (error) {
      failed.value = whatFailed(error)
      return false
    } finally {
      isWorking.value = false
    }
  }

  const levelId = () => level.summary!.id

  async function load(): Promise<void> {
    await attempt(async () => {
      const id = levelId()
      const found = await api.milestones(id)
      if (level.summary?.id === id) all.value = found
    })
  }

  /** @param of an earlier state that is to be named */
  async function open(of: typeof earlier.value = null): Promise<void> {
    earlier.value = of
    isOpen.value = true
    await load()
  }

  async function openComparing(): Promise<void> {
    isComparingOpen.value = true
    await Promise.all([
      load(),
      attempt(async () => {
        levels.value = (await api.levels()).filter(({ id }) => id !== levelId())
      }),
    ])
  }

  /** All that was done here has to be there before a state of it is named. @throws ServerAway */
  async function allSaved(): Promise<void> {
    await level.settled()
    if (level.saving.kind !== 'saved')
      throw new ServerAway('What you did last is not saved yet. It is kept on this device; try again once it is saved.')
  }

  /** Names the level as it is, or as it was. */
  const make = (name: string, about: string) =>
    attempt(async () => {
      await allSaved()
      const id = levelId()
      const of = earlier.value && { revision: earlier.value.revision }
      const made = await api.makeMilestone(id, { id: v7(), name, about, by: auth.name, ...of })
      earlier.value = null
      // A missing picture is no loss; of what was there is none.
      await (of ? null : session.stage)
        ?.picture(WIDTH, HEIGHT)
        .then(picture => picture && api.putMilestonePicture(made.id, picture))
        .catch(orNothing)
      if (level.summary?.id === id) all.value = await api.milestones(id)
    })

  const rename = (id: string, name: string, about: string) =>
    attempt(async () => {
      await api.patchMilestone(id, { name, about })
      await load()
    })

  const remove = ({ id, name }: Milestone) =>
    attempt(async () => {
      await api.deleteMilestone(id)
      await load()
      level.notify(`Milestone “${name}” was deleted`, ['The level is as it was.'], {
        label: 'Bring it back',
        run: () => {
          level.notice = null
          void attempt(async () => {
            await api.patchMilestone(id, { deleted: false })
            await load()
          })
        },
      })
    })

  const asOther = ({ id, name }: Milestone): Other => ({ what: 'milestone', id, name, base: null, reading: 'since' })

  /** Takes from a milestone what is meant, as one change. */
  async function takeFrom(milestone: Milestone, which: Which, label: string): Promise<void> {
    const states = new ComparedStates()
    await attempt(async () => {
      await level.settled()
      const { view } = level
      const isSame = level.remember([...view.placements()].map(({ id }) => id))
      const found = await states.open(view, asOther(milestone), kit)
      const taken = found && (await states.host.ask(remote => remote.taking(which)))
      if (!found || !taken || level.view !== view) return
      if (!isSame()) return level.notify(...CHANGED_MEANWHILE)
      if (taken.operations.length === 0) {
        level.notify('Nothing is otherwise', [`What is meant is as it was at “${milestone.name}”.`], undefined, true)
        return
      }
      if (!level.changeAsGiven(asName(label), taken.operations)) return
      isOpen.value = false
      if (found.gone > 0)
        level.notify(`${counted(found.gone, 'thing')} came back as ${found.gone === 1 ? 'a group' : 'groups'}`, [
          'The parts they showed are not in the kit any more. Their places, names and what hangs from them are there.',
        ])
    })
    states.end()
  }

  /** Makes the level as it was. That is a change itself. */
  const goBack = (milestone: Milestone) => takeFrom(milestone, { effect: null, but: [] }, `Back to “${milestone.name}”`)

  /** Makes what is picked, with all that hangs from it, as it was. */
  const bringBackPicked = (milestone: Milestone) =>
    takeFrom(
      milestone,
      { things: [...level.selection.ids].filter(id => level.view.has(id)) },
      `As at “${milestone.name}”: ${counted(level.selection.ids.size, 'thing')}`,
    )

  /** Compares the level with a milestone, or another level, on the stage. */
  function compare(other: Other): void {
    isOpen.value = false
    isComparingOpen.value = false
    void comparing.begin(other)
  }

  /**
   * Another level as something to compare with: of a variant, and of what it is a variant of, it is known how both
   * began.
   */
  const levelAsOther = ({ id, name, variantOf, beganAt }: ListedLevel): Other => ({
    what: 'level',
    id,
    name,
    base: variantOf === levelId() ? beganAt : level.summary?.variantOf === id ? level.summary.beganAt : null,
    reading: 'towards',
  })

  /** Starts a level at a milestone, or as it is if there is none; as a variant of this one or by itself. Goes there. */
  const begin = (name: string, at: Milestone | null, variant: boolean) =>
    attempt(async () => {
      await allSaved()
      const from = { name, from: levelId(), variant, author: auth.name }
      const made = await api.createLevel(at ? { ...from, at: at.id } : from)
      isOpen.value = false
      await navigateTo(`/levels/${made.id}`)
    })

  watch(() => level.session, close)

  function close(): void {
    isOpen.value = false
    isComparingOpen.value = false
    all.value = null
    failed.value = ''
  }

  return {
    isOpen,
    isComparingOpen,
    earlier,
    all,
    levels,
    failed,
    isWorking,
    mayMake,
    open,
    openComparing,
    attempt,
    make,
    rename,
    remove,
    goBack,
    bringBackPicked,
    asOther,
    levelAsOther,
    compare,
    begin,
  }
})
