import { defineFeature } from '~/editor/feature'
import { useLevel } from '~/editor/level'
import { useComparing } from './comparing'
import CompareBench from './CompareBench.vue'
import CompareWith from './CompareWith.vue'
import { DifferenceMarks } from './difference-marks'
import { useMilestones } from './milestones'
import MilestonesSheet from './MilestonesSheet.vue'

/** The way back: named states of a level, what became of it since, and other tries at it. */
export const milestones = defineFeature({
  name: 'Milestones',
  layers: [DifferenceMarks],
  dialogs: [MilestonesSheet, CompareWith],
  instead: { panel: CompareBench, isOn: () => useComparing().other !== null },
  commands: () => {
    const here = useMilestones()
    const comparing = useComparing()
    const level = useLevel()
    const isComparing = () => comparing.other !== null
    return [
      { name: 'Milestones', key: 'Ctrl+s', run: () => void here.open(), can: () => level.summary !== null },
      { name: 'Compare with a milestone or a level', run: () => void here.openComparing() },
      { name: 'Next difference', key: 'Alt+ArrowDown', run: () => comparing.step(1), can: isComparing },
      { name: 'Difference before', key: 'Alt+ArrowUp', run: () => comparing.step(-1), can: isComparing },
    ]
  },
  standing: () => {
    const comparing = useComparing()
    return {
      told: () => (comparing.other === null ? null : `Comparing with “${comparing.other.name}”`),
      end: comparing.end,
    }
  },
})
