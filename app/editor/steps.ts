import type { Bench } from './settings-schema'
import { useSettings } from './settings'

/** The steps of the job, for whoever begins something in one. */
export function useSteps() {
  const settings = useSettings()

  /** Shows a step in the bench. */
  function open(bench: Bench): void {
    settings.kept.bench = bench
    settings.panels.showBench = true
  }

  /** Begins something that has its form in a step: that is shown, if the bench is open. */
  const within = (bench: Bench, run: () => void) => () => {
    settings.kept.bench = bench
    run()
  }

  return { open, within }
}
