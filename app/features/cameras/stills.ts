import { transfer } from 'comlink'
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { saveFile } from '~/editor/saving/save-file'
import { WorkerHost } from '~/workers/host'
import type { PictureWork } from './picture-work'
import type { LevelCamera } from './cameras'
import { useCameras } from './cameras'
import { useLevel } from '~/editor/level'
import { useStageSession } from '~/editor/stage-session'

/** The longest side of a picture, in pixels. */
export const LONGEST_SIDE = 4096

/** Seconds that one picture, or packing them all, may take. */
const SILENCE = 120

export type StillChoice = { width: number; grid: boolean; marks: boolean }

/** Taking pictures from cameras, as files. */
export const useStills = defineStore('stills', () => {
  const level = useLevel()
  const session = useStageSession()
  const cameras = useCameras()
  /** How many of how many are taken; null while none are. */
  const progress = ref<{ done: number; of: number } | null>(null)
  const worker = new WorkerHost<PictureWork>(
    () => new Worker(new URL('./picture-worker.ts', import.meta.url), { type: 'module' }),
    SILENCE,
  )

  /** Pixels of a picture that is so wide, both sides within the longest. */
  function sizeOf({ own }: LevelCamera, width: number): { width: number; height: number } {
    const across = Math.max(1, Math.round(Math.min(width, LONGEST_SIDE, LONGEST_SIDE * own.aspect)))
    return { width: across, height: Math.max(1, Math.round(across / own.aspect)) }
  }

  async function png(camera: LevelCamera, { width, grid, marks }: StillChoice): Promise<Uint8Array<ArrayBuffer>> {
    const bitmap = await session.stage!.still(cameras.poseOf(camera.id, camera.own), sizeOf(camera, width), {
      marks,
      grid,
      look: session.stage!.view.look,
    })
    if (!bitmap) throw new Error('The level was left.')
    return (await worker.ask(remote => remote.png(transfer(bitmap, [bitmap])))) as Uint8Array<ArrayBuffer>
  }

  /** Saves a picture of one camera, or of several, or of as many as there are, as a ZIP. */
  async function take(which: LevelCamera | readonly LevelCamera[], choice: StillChoice): Promise<void> {
    const all = [which].flat() as LevelCamera[]
    if (!session.stage || progress.value) return
    const files: Record<string, Uint8Array> = {}
    try {
      for (const [i, camera] of all.entries()) {
        progress.value = { done: i, of: all.length }
        const bytes = await png(camera, choice)
        if (camera === which) return saveFile(new Blob([bytes], { type: 'image/png' }), `${fileName(camera.name)}.png`)
        files[`${String(i + 1).padStart(2, '0')} ${fileName(camera.name)}.png`] = bytes
      }
      saveFile(
        new Blob([(await worker.ask(remote => remote.zip(files))) as Uint8Array<ArrayBuffer>], {
          type: 'application/zip',
        }),
        `${fileName(level.summary?.name ?? 'Level')}, pictures.zip`,
      )
    } catch (error) {
      level.notify('The pictures could not be taken', [error instanceof Error ? error.message : String(error)])
    } finally {
      progress.value = null
    }
  }

  return { progress, sizeOf, take }
})

/** Without what file systems keep for themselves. */
const fileName = (name: string) => name.replace(/[\\/:*?"<>|]/g, '-').replace(/[. ]+$/, '') || 'Picture'
