import { mdiTapeMeasure } from '@mdi/js'
import type { Command } from '~/editor/commands'
import { defineFeature } from '~/editor/feature'
import { useSettings } from '~/editor/settings'
import { useSteps } from '~/editor/steps'
import { MEASURE_TASKS } from '~/editor/tools/tool-id'
import MeasureBench from './MeasureBench.vue'
import { Dimensions } from './dimensions'
import { TASK_NAMES, useMeasuring } from './measuring'

/** Tapes, sizes and clearances, drawn as on a plan; their numbers can be typed over. */
export const measure = defineFeature({
  name: 'Measure',
  step: { bench: 'measure', name: 'Measure', icon: mdiTapeMeasure, panel: MeasureBench },
  layers: [Dimensions],
  commands: () => {
    const [steps, measuring] = [useSteps(), useMeasuring()]
    const { kept } = useSettings()
    return [
      ...MEASURE_TASKS.map(
        (task): Command => ({
          name: `Measure: ${TASK_NAMES[task].name.toLowerCase()}`,
          key: task === 'tape' ? 'u' : undefined,
          run: steps.within('measure', () => measuring.start(task)),
        }),
      ),
      { name: 'Show or hide all measures', run: () => (kept.show.measures = !kept.show.measures) },
      {
        name: 'Sizes of what is picked on the stage, or not',
        key: 'Shift+u',
        run: () => (kept.show.sizes = kept.show.sizes === 'off' ? 'own' : 'off'),
      },
    ]
  },
})
