import { mdiMovieOpenOutline } from '@mdi/js'
import type { Command } from '~/editor/commands'
import { defineFeature } from '~/editor/feature'
import { useLevel } from '~/editor/level'
import { useSteps } from '~/editor/steps'
import { MARK_TASKS } from '~/editor/tools/tool-id'
import CamerasBench from './CamerasBench.vue'
import { useCameras } from './cameras'
import { MARK_NAMES } from './mark-tool'
import { useMarking } from './marking'
import { useWalking } from './walking'

/** Cameras, lights, markers and walking lines: put down, looked through, played and walked. */
export const cameras = defineFeature({
  name: 'Cameras, light and markers',
  step: { bench: 'cameras', name: 'Cameras', icon: mdiMovieOpenOutline, panel: CamerasBench },
  standing: () => {
    const [looking, level] = [useCameras(), useLevel()]
    const through = () => (looking.throughActive === null ? undefined : level.view.get(looking.throughActive)?.name)
    return {
      told: () => {
        if (looking.isPlaying) return 'Playing the cut list'
        const name = through()
        return name === undefined ? null : `Looking through ${name}`
      },
      end: () => {
        if (looking.isPlaying) looking.stop()
        else looking.lookFree()
      },
    }
  },
  commands: () => {
    const [steps, looking, marking, walking] = [useSteps(), useCameras(), useMarking(), useWalking()]
    return [
      { name: 'Place a camera at this view', run: marking.cameraHere, on: ['ground'] },
      ...MARK_TASKS.map(
        (task): Command => ({
          name: `Put down: ${MARK_NAMES[task].name.toLowerCase()}`,
          run: steps.within('cameras', () => marking.start(task)),
        }),
      ),
      { name: 'Draw a walking line', run: steps.within('cameras', () => marking.start('walk')) },
      { name: 'Cameras, lights and markers', run: () => steps.open('cameras') },
      { name: 'Walk through from this view', key: 'w', run: steps.within('cameras', walking.fromView) },
      { name: 'Picture strip', key: 'o', run: () => (looking.showStrip = !looking.showStrip) },
      { name: 'Play the cut list', run: looking.play },
      { name: 'Look through the next camera', run: () => looking.step(1) },
      { name: 'Look through the camera before', run: () => looking.step(-1) },
    ]
  },
})
