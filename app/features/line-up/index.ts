import { mdiAlignHorizontalLeft } from '@mdi/js'
import { useEdits } from '~/editor/edits'
import { defineFeature } from '~/editor/feature'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useSteps } from '~/editor/steps'
import LineUpBench from './LineUpBench.vue'
import { useKeeping } from '~/editor/keeping'
import { ON_PICKED, ON_THINGS } from '~/editor/menu/menu-places'
import { RelationMarks } from './relation-marks'
import { useLinks } from './use-links'
import { useFacing } from './facing'

/** Things in order with each other, and on what is below them. */
export const lineUp = defineFeature({
  name: 'Line up',
  step: { bench: 'line-up', name: 'Line up', icon: mdiAlignHorizontalLeft, panel: LineUpBench },
  layers: [RelationMarks],
  commands: () => {
    const [steps, facing, keeping, level] = [useSteps(), useFacing(), useKeeping(), useLevel()]
    const { somePicked } = useEdits()
    const { kept } = useSettings()
    useLinks()
    return [
      { name: 'Line up', run: () => steps.open('line-up') },
      { name: 'Set down', key: 'g', run: facing.setDownPicked, can: somePicked, on: ON_PICKED },
      { name: 'Face a point or a thing …', run: () => facing.face('towards'), can: somePicked },
      { name: 'Face away from a surface …', run: () => facing.face('away'), can: somePicked },
      { name: 'Keep on what is below', run: () => keeping.keepOn(), can: somePicked, on: ON_THINGS },
      {
        name: 'Let go of all it is kept to',
        run: () => keeping.letGo(keeping.own),
        can: () => keeping.own.length > 0,
      },
      { name: 'Pick what it holds', run: () => level.pick(keeping.holds), can: () => keeping.holds.length > 0 },
      { name: 'Show or hide links to what holds', run: () => (kept.show.links = !kept.show.links) },
    ]
  },
})
