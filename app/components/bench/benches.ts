import { mdiAlignHorizontalLeft, mdiArrowCollapseDown, mdiCheckDecagramOutline, mdiContentDuplicate, mdiCubeOutline, mdiGrass, mdiMovieOpenOutline, mdiPackageVariantClosed, mdiTapeMeasure } from '@mdi/js'
import type { Component } from 'vue'
import type { Bench } from '~/stores/settings-schema'
import BlocksBench from './BlocksBench.vue'
import CamerasBench from './CamerasBench.vue'
import CheckBench from './CheckBench.vue'
import KitBench from './KitBench.vue'
import LineUpBench from './LineUpBench.vue'
import MeasureBench from './MeasureBench.vue'
import RepeatBench from './RepeatBench.vue'
import ScatterBench from './ScatterBench.vue'
import SettleBench from './SettleBench.vue'

/** The steps of the job, in order: what each is called on the step bar, and what is in the bench. */
export const BENCHES: Record<Bench, { name: string, icon: string, panel: Component }> = {
  'kit': { name: 'Kit', icon: mdiPackageVariantClosed, panel: KitBench },
  'blocks': { name: 'Blocks', icon: mdiCubeOutline, panel: BlocksBench },
  'line-up': { name: 'Line up', icon: mdiAlignHorizontalLeft, panel: LineUpBench },
  'repeat': { name: 'Repeat', icon: mdiContentDuplicate, panel: RepeatBench },
  'scatter': { name: 'Scatter', icon: mdiGrass, panel: ScatterBench },
  'measure': { name: 'Measure', icon: mdiTapeMeasure, panel: MeasureBench },
  'check': { name: 'Check', icon: mdiCheckDecagramOutline, panel: CheckBench },
  'cameras': { name: 'Cameras', icon: mdiMovieOpenOutline, panel: CamerasBench },
  'settle': { name: 'Settle', icon: mdiArrowCollapseDown, panel: SettleBench },
}
