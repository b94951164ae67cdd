import type { Component } from 'vue'
import type { StageLayer } from '~/stage/stage-layer'
import type { Command } from './commands'
import type { Standing } from './modes'
import type { Bench } from './settings-schema'

/** Everything that the page asks of a feature; a member that has nothing to say is left out. */
export type Feature = {
  /** What it is called where all that can be done is listed. */
  name: string
  /** Its step of the job: what it is called on the step bar, and what is in the bench. */
  step?: { bench: Bench; name: string; icon: string; panel: Component }
  /** What is in the bench in the place of its step while something is on. */
  instead?: { panel: Component; isOn: () => boolean }
  /** What can be done by key or name; made once for each page. */
  commands?: () => Command[]
  /** What can be done besides, as somebody has made it: asked for anew when that changes. */
  grown?: () => readonly Command[]
  /** What may stay on until it is ended; made once for each page. */
  standing?: () => Standing
  /** Dialogs that open by themselves. */
  dialogs?: readonly Component[]
  /** What it shows on the stage besides the level. */
  layers?: readonly (new () => StageLayer)[]
}

/** A feature, with the name of its step known to the compiler. */
export const defineFeature = <const F extends Feature>(feature: F): F => feature
