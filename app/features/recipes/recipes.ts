import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Recipe } from '~~/core/level/recipe'
import type { LevelRecipe } from '~~/core/level/schema'
import { makeRecipe } from '~~/core/recipe/making'
import type { Played } from '~~/core/recipe/playing'
import { needsOf, playRecipe } from '~~/core/recipe/playing'
import { copyOf } from '~~/core/scene/copy-id'
import { asName } from '~~/core/units/text'
import { whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import { readTextFile } from '~/editor/json-file'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { sameList } from '~/editor/same-list'
import { useSettings } from '~/editor/settings'
import { MOST_RECIPES } from '~/editor/settings-schema'
import { useTools } from '~/editor/tools'
import { changesSince, MOST_LOOKED_AT, placementsAt } from './changes-since'
import { LARGEST_RECIPE, readRecipeFile } from './recipe-file'

/** A recipe with where it is kept: with this person by its name, or with the level by its id. */
export type Kept = { recipe: Recipe; of: 'me' } | { recipe: Recipe; of: 'level'; id: string }

/** Things on which it is shown what a recipe would do; on more it is only done. */
const MOST_SHOWN = 500

/** Recipes: made of what was done, looked at on what is picked, and played. */
export const useRecipes = defineStore('recipes', () => {
  const level = useLevel()
  const kit = useKit()
  const auth = useAuth()
  const { kept: mine } = useSettings()
  const showPreview = useTools().claimPreview()

  const isOpen = ref(false)
  /** What is chosen, by its key. */
  const chosen = ref<string | null>(null)
  const inputs = ref<Record<string, number>>({})
  const failed = ref('')
  const told = ref('')
  /** Since which change steps are taken down, and what was picked then. */
  const recording = shallowRef<{ after: number; picked: string[] } | null>(null)
  /** Revisions of the list of changes that are to become one. */
  const marked = ref<readonly number[]>([])

  const keyOf = (each: Kept) => (each.of === 'me' ? `me ${each.recipe.name}` : `level ${each.id}`)

  const ofLevel = computed((before?: readonly LevelRecipe[]) => sameList(before, [...level.view.recipes.values()]))
  const all = computed((): Kept[] => [
    // As plain values: what is reactive cannot be stored with a change.
    ...mine.recipes.map((recipe): Kept => ({ recipe: plain(recipe), of: 'me' })),
    ...ofLevel.value.map(({ id, ...recipe }): Kept => ({ recipe, of: 'level', id })),
  ])
  const current = computed(() => all.value.find(each => keyOf(each) === chosen.value) ?? null)

  /** What is picked, in its order; of a copy its rule. */
  const on = computed(() => [...new Set([...level.selection.ids].map(id => copyOf(id)?.arrangementId ?? id))])

  const play = (recipe: Recipe, given: Record<string, number>): Played =>
    playRecipe(level.view, recipe, {
      on: on.value,
      inputs: given,
      newId: v7,
      hasPart: id => kit.part(id) !== undefined,
    })

  /** What playing it now would do. */
  const would = computed((): Played | null => {
    if (!isOpen.value || !current.value) return null
    if (on.value.length > MOST_SHOWN && needsOf(current.value.recipe) === 'each')
      return { ok: true, operations: [], made: [] }
    return play(current.value.recipe, inputs.value)
  })
  // What was begun in one level is nothing in another.
  watch(
    () => level.summary?.id,
    () => {
      recording.value = null
      marked.value = []
      close()
    },
  )
  watch(would, now => showPreview(now?.ok && now.operations.length > 0 ? now.operations : null))

  function open(): void {
    isOpen.value = true
    failed.value = ''
    told.value = ''
  }

  function close(): void {
    isOpen.value = false
    chosen.value = null
  }

  function choose(key: string | null): void {
    chosen.value = key
    inputs.value = {}
    failed.value = ''
    told.value = ''
  }

  /** Plays one on what is picked, as one change; says at which step it cannot be done. */
  function playNow(recipe: Recipe, given: Record<string, number> = {}): void {
    showPreview(null)
    const played = play(recipe, given)
    const why = !played.ok ? sayRefused(played) : played.operations.length === 0 ? 'It would change nothing.' : null
    if (why !== null || !played.ok) {
      failed.value = why ?? ''
      level.notify(`“${recipe.name}” was not played`, [why ?? '', 'Nothing was changed.'])
      return
    }
    if (!level.change(asName(`Play “${recipe.name}”`), played.operations)) return
    const made = played.made.filter(id => level.view.has(id))
    if (made.length > 0) level.pick(made)
  }

  const sayRefused = ({ step, error }: Extract<Played, { ok: false }>) =>
    step === 0 ? error : `Step ${step}: ${error}`

  /** Begins to take down what is done, or ends that and makes a recipe of it. */
  async function toggleRecording(): Promise<void> {
    const begun = recording.value
    if (begun) {
      recording.value = null
      await make(begun.after, ({ author }) => author === auth.name, begun.picked)
      return
    }
    try {
      recording.value = { after: await level.revisionSaved(), picked: on.value }
    } catch (error) {
      level.notify('Nothing is taken down', [whatFailed(error)])
    }
  }

  function toggleMarked(revision: number): void {
    marked.value = marked.value.includes(revision)
      ? marked.value.filter(each => each !== revision)
      : [...marked.value, revision]
  }

  /** A recipe of the changes that are marked in the list. */
  async function makeOfMarked(): Promise<void> {
    const revisions = new Set(marked.value)
    marked.value = []
    await make(Math.min(...revisions) - 1, ({ revision }) => revisions.has(revision))
  }

  async function make(
    after: number,
    isMeant: (change: { author: string; revision: number }) => boolean,
    picked?: readonly string[],
  ): Promise<void> {
    open()
    const levelId = level.summary!.id
    try {
      const now = await level.revisionSaved()
      if (now - after > MOST_LOOKED_AT) throw new TooLong()
      const changes = await changesSince(levelId, after)
      const before = await placementsAt(level.view, levelId, after)
      const last = changes.filter(isMeant).at(-1)?.label ?? 'steps'
      const found = makeRecipe(
        freeName(last),
        changes.map(change => ({ ...change, isChosen: isMeant(change) })),
        before,
        picked && picked.length > 0 ? picked : undefined,
      )
      if (found.ok) keepMine(found.recipe)
      else failed.value = found.error
    } catch (error) {
      failed.value =
        error instanceof TooLong
          ? `That is more than ${MOST_LOOKED_AT} changes ago. Choose later ones.`
          : whatFailed(error)
    }
  }

  function freeName(wanted: string): string {
    const base = asName(wanted.slice(0, 60))
    const taken = new Set(all.value.map(({ recipe }) => recipe.name))
    for (let i = 1; ; i++) {
      const name = i === 1 ? base : `${base} ${i}`
      if (!taken.has(name)) return name
    }
  }

  /** Keeps one with this person, and chooses it. @returns whether there was room */
  function keepMine(recipe: Recipe): boolean {
    if (mine.recipes.length >= MOST_RECIPES) {
      failed.value = `There are ${MOST_RECIPES} recipes; delete one first.`
      return false
    }
    mine.recipes = [...mine.recipes, recipe]
    choose(`me ${recipe.name}`)
    return true
  }

  /** Takes one from here to the level, or from the level to here. */
  function moveOver(each: Kept): void {
    if (each.of === 'me') {
      const id = v7()
      if (
        !level.change(asName(`Keep “${each.recipe.name}” with the level`), [
          { do: 'put-recipe', id, fields: each.recipe },
        ])
      )
        return
      mine.recipes = mine.recipes.filter(({ name }) => name !== each.recipe.name)
      choose(`level ${id}`)
    } else if (keepMine({ ...each.recipe, name: freeName(`${each.recipe.name} (mine)`) }))
      told.value = 'It is kept with the level as well.'
  }

  function remove(each: Kept): void {
    const { name } = each.recipe
    choose(null)
    if (each.of === 'level') {
      level.change(asName(`Delete the recipe “${name}”`), [{ do: 'remove-recipe', id: each.id }])
      return
    }
    mine.recipes = mine.recipes.filter(other => other.name !== name)
    level.notify(`The recipe “${name}” was deleted`, [], {
      label: 'Bring it back',
      run: () => void keepMine(each.recipe),
    })
  }

  /** Puts another in its place: renamed, or with other inputs. @returns what is wrong with that, if anything is */
  function put(each: Kept, given: Recipe): string | null {
    const next = plain(given)
    const isTaken = all.value.some(
      other => keyOf(other) !== keyOf(each) && other.of === each.of && other.recipe.name === next.name,
    )
    if (isTaken) return 'Another recipe is called so.'
    if (each.of === 'level') {
      level.change(asName(`Change the recipe “${next.name}”`), [{ do: 'put-recipe', id: each.id, fields: next }])
      return null
    }
    mine.recipes = mine.recipes.map(other => (other.name === each.recipe.name ? next : other))
    chosen.value = `me ${next.name}`
    return null
  }

  /** Takes one from a file; what is wrong with it is said, and then nothing is taken. */
  async function takeFile(file: Blob): Promise<void> {
    failed.value = ''
    told.value = ''
    const given = await readTextFile(file, LARGEST_RECIPE, 'a recipe')
    const read = given.ok ? readRecipeFile(given.text) : given
    if (!read.ok) failed.value = `This file was not taken. ${read.error}`
    else if (keepMine({ ...read.recipe, name: freeName(read.recipe.name) })) told.value = 'It is among your recipes.'
  }

  return {
    isOpen,
    chosen,
    inputs,
    failed,
    told,
    recording,
    marked,
    all,
    current,
    on,
    would,
    keyOf,
    open,
    close,
    choose,
    playNow,
    sayRefused,
    toggleRecording,
    toggleMarked,
    makeOfMarked,
    moveOver,
    remove,
    put,
    takeFile,
  }
})

const plain = <T>(value: T) => JSON.parse(JSON.stringify(value)) as T

/** The changes that are meant lie too far back. */
class TooLong extends Error {}
