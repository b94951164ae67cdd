import { watchEffect } from 'vue'
import type { Feature } from '~/editor/feature'
import { useCommands } from '~/editor/commands'
import { useModes } from '~/editor/modes'
import type { Bench } from '~/editor/settings-schema'
import { blocks } from '~/features/blocks'
import { cameras } from '~/features/cameras'
import { check } from '~/features/check'
import { firstSteps } from '~/features/first-steps'
import { handbook } from '~/features/handbook'
import { keys } from '~/features/keys'
import { kit } from '~/features/kit'
import { lineUp } from '~/features/line-up'
import { measure } from '~/features/measure'
import { milestones } from '~/features/milestones'
import { notes } from '~/features/notes'
import { people } from '~/features/people'
import { recipes } from '~/features/recipes'
import { repeat } from '~/features/repeat'
import { scatter } from '~/features/scatter'
import { settings } from '~/features/settings'
import { settle } from '~/features/settle'
import { transform } from '~/features/transform'
import { windows } from '~/features/windows'
import { editorCommands } from './editor-commands'

const ALL = [
  kit,
  transform,
  blocks,
  lineUp,
  repeat,
  scatter,
  measure,
  check,
  cameras,
  settle,
  people,
  notes,
  milestones,
  recipes,
  keys,
  settings,
  windows,
  firstSteps,
  handbook,
] as const

/** What can be done in the editor, in the order of the job: each a folder of `features`, and a line here. */
export const FEATURES: readonly Feature[] = ALL

type Step = Required<Feature>['step']
type Stepped = Extract<(typeof ALL)[number], { step: unknown }>['step']['bench']

/** The steps of the job in order; one that the settings know and no feature has does not compile. */
export const STEPS: readonly Step[] = ALL.flatMap(feature =>
  'step' in feature ? [feature.step] : [],
) satisfies Exclude<Bench, Stepped> extends never ? Step[] : never

/** What is in the bench at a step. */
export const panelOf = (bench: Bench) => STEPS.find(step => step.bench === bench)!.panel

/** What is in the bench in the place of any step right now; null if nothing is. */
export const panelInstead = () => FEATURES.find(({ instead }) => instead?.isOn())?.instead?.panel ?? null

/**
 * Hands the editor what its features can do; once for each page that edits.
 *
 * @throws RangeError if two commands have one name or key
 */
export function beginFeatures(): void {
  const own = FEATURES.map(({ name, commands }) => ({ group: name, commands: commands?.() ?? [] }))
  useCommands().begin([...editorCommands(), ...own])
  // What somebody has made, such as recipes, has names, and keys if wanted, as well.
  watchEffect(() => {
    const grown = FEATURES.map(feature => ({ group: feature.name, commands: feature.grown?.() ?? [] }))
    useCommands().extend(grown.filter(({ commands }) => commands.length > 0))
  })
  useModes().begin(FEATURES.flatMap(({ standing }) => standing?.() ?? []))
}
