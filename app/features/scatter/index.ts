import { mdiGrass } from '@mdi/js'
import { defineFeature } from '~/editor/feature'
import ScatterBench from './ScatterBench.vue'
import { ScatterOverlay } from './scatter-overlay'

/** Many things over surfaces, by chance and limits, with a brush for what chance does not know. */
export const scatter = defineFeature({
  name: 'Scatter',
  step: { bench: 'scatter', name: 'Scatter', icon: mdiGrass, panel: ScatterBench },
  layers: [ScatterOverlay],
})
