import { mdiAlignHorizontalLeft, mdiArrowCollapseDown, mdiCheckDecagramOutline, mdiContentDuplicate, mdiCubeOutline, mdiGrass, mdiMovieOpenOutline, mdiPackageVariantClosed, mdiTapeMeasure } from '@mdi/js'
import type { Component } from 'vue'
import type { Bench } from '~/editor/settings-schema'
import BlocksBench from '~/features/blocks/BlocksBench.vue'
import CamerasBench from '~/features/cameras/CamerasBench.vue'
import CheckBench from '~/features/check/CheckBench.vue'
import KitBench from '~/features/kit/KitBench.vue'
import LineUpBench from '~/features/line-up/LineUpBench.vue'
import MeasureBench from '~/features/measure/MeasureBench.vue'
import RepeatBench from '~/features/repeat/RepeatBench.vue'
import ScatterBench from '~/features/scatter/ScatterBench.vue'
import SettleBench from '~/features/settle/SettleBench.vue'

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
