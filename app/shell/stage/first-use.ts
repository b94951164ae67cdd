import { computed, watch } from 'vue'
import { z } from 'zod'
import { useKeptHere } from '~/editor/kept-here'
import { useStageSession } from '~/editor/stage-session'
import type { ToolId } from '~/editor/tools/tool-id'

type Tool = ToolId['tool']

/** The two things that one needs to know of each tool. */
const NEEDS: Record<Tool, string> = {
  'place': 'Click as often as you like; the wheel turns it.',
  'block': 'Drag or click two corners of the base, then move for the height and click.',
  'chain': 'Click a free end to go on; the wheel changes the piece.',
  'touch': 'Click what is asked for. Nothing is picked by it.',
  'path':
    'Click each point, on any surface; {Finish what is drawn} ends it, {Take back the last point} takes a point back.',
  'area': 'Click each corner; a click on the first one closes it.',
  'brush': 'Drag to paint; Shift does the opposite, the wheel changes the radius.',
  'measure': 'Click both ends; they snap to corners and edges. Shift goes on as a chain.',
  'measure-end': 'Click where the end is to be; it snaps to corners and edges.',
  'mark': 'Click to put it down; drag on to what it looks or shines at.',
  'walk': '{Walk forward} {Walk to the left} {Walk back} {Walk to the right} walks, the mouse looks.',
  'pour': 'Click where it is to fall; the wheel changes the circle.',
  'settle': 'Watch it fall; keep it once it rests.',
}

/** Tools by name that were used on this device. */
const usedSchema = z.array(z.string()).catch([])

/** What the first use of a tool on this device is told, until it ends; null for what was used before. */
export function useFirstUse() {
  const session = useStageSession()
  const used = useKeptHere('used-tools', kept => usedSchema.parse(kept))
  watch(
    () => session.mode?.id.tool,
    (_now, before) => {
      if (before && !used.value.includes(before)) used.value = [...used.value, before]
    },
  )
  return computed(() => {
    const tool = session.mode?.id.tool
    return tool && !used.value.includes(tool) ? NEEDS[tool] : null
  })
}
