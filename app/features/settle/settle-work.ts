import { transfer } from 'comlink'
import type { SettleScene } from '~~/core/settle/settle'
import { loadPhysics, Settling } from '~~/core/settle/settle'
import { pause } from '~/workers/pause'

/** How far it has come: sixteen numbers for each thing, the seconds of falling, and how many rest. */
export type SettleNews = { matrices: Float64Array; seconds: number; resting: number; isDone: boolean }

/** Milliseconds between two times that something is told, and between two signs of life in a pause. */
const [TELLING, SIGN] = [40, 5000]

/** Things that fall, one run at a time. */
export function settleWork() {
  let running = 0
  let isPaused = false

  return {
    /**
     * Lets things fall as fast as time goes by, or as fast as it can be worked out.
     *
     * @returns how it ended; null if another run took over
     */
    async run(scene: SettleScene, onNews: (news: SettleNews) => void): Promise<SettleNews | null> {
      const mine = ++running
      isPaused = false
      await loadPhysics()
      if (mine !== running) return null
      const of = new Settling(scene)
      let told = 0
      let shown = performance.now()
      const news = (): SettleNews => ({
        matrices: of.matrices(),
        seconds: of.seconds,
        resting: of.resting,
        isDone: of.isDone,
      })
      try {
        while (!of.isDone) {
          const now = performance.now()
          // A pause, or a step that took long, is not made up for.
          if (isPaused || now - shown > 100) shown = Math.max(shown, now - 1000 / 60)
          if (isPaused || now - shown < 1000 / 60) {
            // A long pause is no silence.
            if (isPaused && now - told > SIGN) {
              told = now
              onNews(news())
            }
            await new Promise(resolve => setTimeout(resolve, isPaused ? 50 : 4))
            if (mine !== running) return null
            continue
          }
          shown += 1000 / 60
          of.step()
          if (now - told > TELLING) {
            told = now
            const each = news()
            onNews(transfer(each, [each.matrices.buffer]))
          }
          await pause()
          if (mine !== running) return null
        }
        const last = news()
        return transfer(last, [last.matrices.buffer])
      } finally {
        of.dispose()
      }
    },

    pause(on: boolean): void {
      isPaused = on
    },

    stop(): void {
      running++
    },
  }
}

export type SettleWork = ReturnType<typeof settleWork>
