import { ref, watch } from 'vue'
import { useLevel } from '~/editor/level'
import { useCameras } from '~/features/cameras/cameras'
import { useFirstSteps } from '~/features/first-steps/first-steps'
import { useHandingOver } from '~/features/hand-over/handing-over'

/** Tells the first steps what of the page they cannot know, and begins them where the address says so. */
export function useFirstStepsHere(): void {
  const steps = useFirstSteps()
  const cameras = useCameras()
  const handing = useHandingOver()
  const level = useLevel()
  const route = useRoute()
  const handedOver = ref(0)

  watch(
    () => handing.done,
    done => done && handedOver.value++,
  )
  watch(
    [() => cameras.throughActive, handedOver],
    () => (steps.page = { isThrough: cameras.throughActive !== null, handedOver: handedOver.value }),
  )
  watch(
    () => level.summary?.id,
    id => id !== undefined && 'steps' in route.query && steps.begin(),
  )
}
