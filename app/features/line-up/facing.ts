import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { ref } from 'vue'
import { facePlacements } from '~~/core/edit/snap/face'
import { setDown } from '~~/core/edit/snap/set-down'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { useTools } from '~/editor/tools'
import { useKeeping } from '~/editor/keeping'

/** Letting things down onto what is below them, and turning them towards something. */
export const useFacing = defineStore('facing', () => {
  const level = useLevel()
  const modes = useModes()
  const tools = useTools()
  const handling = useHandling()
  const settings = useSettings()
  const keeping = useKeeping()
  const { label } = useEdits()
  const faceUpright = ref(true)

  /** Lets what is picked down onto what is below; those without ground are counted and picked. */
  function setDownPicked(): void {
    const ids = handling.movable()
    if (ids.length === 0) return
    const { above, below, keeps, ...rule } = settings.kept.setDown
    const { operations, down, without } = setDown(level.view, level.index, new Set(ids), rule, { above, below })
    const joins = keeps ? v7() : undefined
    if (!level.change(label('Set down', ids), operations, joins)) return
    if (keeps) keeping.keepOn(down, rule, joins)
    if (without.length === 0) return
    level.pick(without)
    level.notify(
      without.length === 1 ? 'One thing has no ground below it' : `${without.length} things have no ground below them`,
      [
        `Looked from ${tools.printLength(above)} above to ${tools.printLength(below)} below. They stay where they are and are picked now.`,
      ],
    )
  }

  /**
   * Turns what is picked towards the middle of a thing that is touched next, or a point of it, or away from the surface
   * touched.
   */
  function face(how: 'towards' | 'away'): void {
    const ids = handling.movable()
    if (ids.length === 0) return
    modes.touch(
      how === 'towards' ? 'Touch what to face' : 'Touch the surface to face away from',
      how === 'towards' ? 'middle' : 'point',
      ({ point, normal }) => {
        if (how === 'away' && !normal) return false
        const target = how === 'towards' ? { point } : { direction: normal! }
        level.change(label('Face', ids), facePlacements(level.view, ids, target, faceUpright.value))
        return true
      },
    )
  }

  return { faceUpright, setDownPicked, face }
})
