import { mdiPackageVariantClosed } from '@mdi/js'
import { useEdits } from '~/editor/edits'
import { defineFeature } from '~/editor/feature'
import { useLevel } from '~/editor/level'
import { ON_PICKED, ON_THINGS } from '~/editor/menu/menu-places'
import { useSettings } from '~/editor/settings'
import { useSteps } from '~/editor/steps'
import KitBench from './KitBench.vue'
import SavePartDialog from './SavePartDialog.vue'
import SocketsDialog from './SocketsDialog.vue'
import PartImportDialog from './import/PartImportDialog.vue'
import { usePartMaking } from './part-making'
import { usePlacing } from './placing'
import { useSockets } from './sockets'
import { useSwapping } from './swapping'
import { useWorkshop } from './workshop'

/** Parts: brought in, placed, chained, swapped, made of what is there, and worked on in their workshops. */
export const kit = defineFeature({
  name: 'Kit',
  step: { bench: 'kit', name: 'Kit', icon: mdiPackageVariantClosed, panel: KitBench },
  dialogs: [SavePartDialog, PartImportDialog, SocketsDialog],
  standing: () => {
    const swapping = useSwapping()
    return { told: () => (swapping.isOn ? 'Swapping for another part' : null), end: swapping.stop }
  },
  commands: () => {
    const [level, steps, placing, sockets, making] = [
      useLevel(),
      useSteps(),
      usePlacing(),
      useSockets(),
      usePartMaking(),
    ]
    const { kept } = useSettings()
    const { somePicked } = useEdits()
    const [workshop, swapping] = [useWorkshop(), useSwapping()]
    const partPicked = () =>
      level.selection.last === null ? null : (level.view.get(level.selection.last)?.partId ?? null)
    const openPicked = () => {
      const partId = partPicked()
      if (partId !== null) void workshop.open(partId, level.selection.last)
    }
    return [
      { name: 'Sockets click together, on or off', run: () => (kept.sockets = !kept.sockets) },
      { name: 'Draw a chain of pieces', key: 'k', run: steps.within('kit', placing.drawChain), on: ['ground'] },
      { name: 'Sockets of the part …', run: () => (sockets.partId = partPicked()), can: () => partPicked() !== null },
      { name: 'Save as a part …', key: 'Ctrl+Alt+p', run: making.ask, can: somePicked, on: ON_THINGS },
      { name: 'Edit the part', key: 'Ctrl+Alt+e', run: openPicked, can: () => partPicked() !== null, on: ON_THINGS },
      { name: 'Done with the part', run: () => void workshop.finish(), can: () => workshop.partId !== null },
      { name: 'Leave the part as it was', run: () => void workshop.dismiss(), can: () => workshop.partId !== null },
      { name: 'Swap for another part …', key: 'Ctrl+Alt+s', run: swapping.start, on: ON_PICKED },
    ]
  },
})
