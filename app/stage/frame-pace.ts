/** Milliseconds a frame may take while something moves. */
const TARGET = 55
/** A frame within these shares of that changes nothing: what is drawn would flicker. */
const [EASY, LATE] = [0.7, 1.15]
/** By how much the share may grow from one frame to the next, and shrink. */
const [GROWTH, DROP] = [1.3, 0.25]
/** The least share that is drawn, and the least of a large level, in triangles. */
const [LEAST, LEAST_OF_MANY] = [0.03, 5000]
/** Of the resolution along each side; pixels get a little more of the time than triangles. */
const [RATIOS, FINER] = [[1, 0.84, 0.71, 0.6, 0.5, 0.42, 0.35], 1.3]
/** Triangles that take about as long as the pixels of a stage: who draws more of them in a frame has time for those. */
const AS_PIXELS = 300_000
/** Triangles that are drawn at once while all rests, however long that takes. */
const ALWAYS = 300_000
/** Milliseconds for a piece of a larger level, while all rests; its triangles at first and at least. */
const [PIECE_TIME, FIRST_PIECE, LEAST_PIECE] = [110, 60_000, 10_000]
/** By how much a piece may grow from one to the next, and shrink. */
const [PIECE_GROWTH, PIECE_DROP] = [2, 0.4]
/** Milliseconds of rest after which the full resolution comes, and after which everything does. */
export const REST = 150
export const LONG_REST = 450
/** Milliseconds after which a frame is taken to be drawn, whatever the card says: its context may be lost. */
const LONGEST = 20_000

/** Of a context what tells how far the card is. */
type Fences = Pick<WebGL2RenderingContext, 'fenceSync' | 'getSyncParameter' | 'deleteSync' | 'flush'>
  & Record<'SYNC_GPU_COMMANDS_COMPLETE' | 'SYNC_STATUS' | 'SIGNALED', number>

/**
 * How simply a frame is drawn: the share of the resolution along each side, samples for each pixel, and triangles. A
 * piece is a part of a whole picture.
 */
export type Quality = {
  name: 'moving' | 'paused' | 'whole' | 'piece'
  ratio: number
  samples: number
  triangles: number
}

/**
 * How much of everything a frame may draw, from how long the frames before really took: from the call until the card
 * says that it is done, since drawing goes on behind the page's back. While something moves a frame gets a share of all
 * triangles and of all pixels by which it is done in time; as soon as it rests, the full resolution, then everything,
 * in pieces if it is much. Until one frame is done no other is begun, so that input never waits for more than one.
 */
export class FramePace {
  /** Of all there is to draw, how much is drawn while something moves. */
  share = 1
  /** Milliseconds that the last frames took, evened out. */
  private average = 16
  private hasMoved = false
  /** Triangles of a piece of a picture that has more than can be drawn at once. */
  pieceSize = FIRST_PIECE
  private movedAt = -Infinity
  private begun: { fence: WebGLSync; at: number; quality: Quality; drawn: number; all: number } | null = null
  private restTimer: ReturnType<typeof setTimeout> | undefined
  private lookTimer: ReturnType<typeof setTimeout> | undefined

  /** @param redraw asks for a frame: something rests, or more can be drawn than was */
  constructor(
    private readonly gl: Fences,
    private readonly redraw: () => void,
    private readonly now = () => performance.now(),
  ) {}

  /** Frames a second that could be drawn one after the other. */
  get framesPerSecond(): number {
    return Math.round(1000 / Math.max(this.average, 1))
  }

  /** Triangles that a frame may have while all rests. */
  get most(): number {
    return Math.max(ALWAYS, this.pieceSize)
  }

  /** Whether a frame is still being drawn. */
  get isBusy(): boolean {
    this.look()
    return this.begun !== null
  }

  /** Something on the stage moves: the view, or what is dragged. */
  moved(): void {
    this.movedAt = this.now()
  }

  /** Whether all is as it will be: nothing is drawn simply that is to be drawn whole. */
  get isResting(): boolean {
    return !this.isBusy && (this.share === 1 || this.now() - this.movedAt >= LONG_REST) && this.restTimer === undefined
  }

  /** How the next frame is drawn. @param all triangles of all there is */
  next(all: number): Quality {
    const rested = this.now() - this.movedAt
    const whole: Quality = { name: 'whole', ratio: 1, samples: 4, triangles: this.most }
    if (this.share === 1 || rested >= LONG_REST) return whole
    const triangles = all * this.share
    return rested < REST
      ? { name: 'moving', ratio: ratioFor(this.share * Math.max(1, all / AS_PIXELS)), samples: 0, triangles }
      : { name: 'paused', ratio: 1, samples: 0, triangles: triangles * 2 }
  }

  /** Call when all of a frame has been asked for. @param drawn triangles in it @param all triangles of all there is */
  asked(quality: Quality, drawn: number, all: number, at: number): void {
    const fence = this.gl.fenceSync(this.gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
    this.gl.flush()
    if (fence) this.begun = { fence, at, quality, drawn, all }
    clearTimeout(this.restTimer)
    this.restTimer = undefined
    if (quality.name === 'moving' || quality.name === 'paused') {
      const wait = this.movedAt + (quality.name === 'moving' ? REST : LONG_REST) - this.now()
      this.restTimer = setTimeout(
        () => {
          this.restTimer = undefined
          this.redraw()
        },
        Math.max(wait, 0),
      )
    }
    this.lookLater()
  }

  /** Learns from a frame. @param time milliseconds it took */
  took(time: number, { name }: Quality, drawn: number, all: number): void {
    if (name === 'piece') return this.pieceTook(time, drawn)
    // What is drawn whole at rest is no frame of a movement; until there was one it says how long one might take.
    if (name === 'moving' || this.share === 1 || !this.hasMoved)
      this.average += (time - this.average) * (name === 'moving' ? 0.2 : 0.5)
    this.hasMoved ||= name === 'moving'
    if (name === 'moving') {
      if (time > TARGET * LATE) this.share *= Math.max(TARGET / time, DROP)
      else if (time < TARGET * EASY) this.share *= Math.min(TARGET / Math.max(time, 1), GROWTH)
    } else if (name === 'whole') {
      // What all of it takes says what a first frame of a movement may have.
      if (time < TARGET * EASY && drawn >= all) this.share = 1
      else if (this.share === 1 && time > TARGET * LATE) this.share = Math.min(1, this.most / all) * (TARGET / time)
    }
    this.share = Math.min(Math.max(this.share, Math.min(LEAST, LEAST_OF_MANY / Math.max(all, 1))), 1)
  }

  /** Pieces grow and shrink so that each takes as long as one may. */
  private pieceTook(time: number, drawn: number): void {
    const factor = Math.min(Math.max(PIECE_TIME / Math.max(time, 1), PIECE_DROP), PIECE_GROWTH)
    // A small one at the end says nothing, unless it was slow.
    if (factor > 1 && drawn < this.pieceSize / 2) return
    this.pieceSize = Math.max(LEAST_PIECE, this.pieceSize * factor)
  }

  dispose(): void {
    clearTimeout(this.restTimer)
    clearTimeout(this.lookTimer)
    if (this.begun) this.gl.deleteSync(this.begun.fence)
    this.begun = null
  }

  /** Whether the card is done with the frame that was begun. */
  private look(): void {
    if (!this.begun) return
    const { fence, at, quality, drawn, all } = this.begun
    const time = this.now() - at
    if (this.gl.getSyncParameter(fence, this.gl.SYNC_STATUS) !== this.gl.SIGNALED && time < LONGEST) return
    this.gl.deleteSync(fence)
    this.begun = null
    this.took(time, quality, drawn, all)
  }

  private lookLater(): void {
    clearTimeout(this.lookTimer)
    this.lookTimer = setTimeout(() => {
      this.look()
      if (this.begun) this.lookLater()
    }, 4)
  }
}

/**
 * Resolves when the card has done what it was asked so far.
 *
 * @param gl the context
 */
export async function whenDrawn(gl: Fences): Promise<void> {
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
  gl.flush()
  if (!fence) return
  const begun = performance.now()
  while (gl.getSyncParameter(fence, gl.SYNC_STATUS) !== gl.SIGNALED && performance.now() - begun < LONGEST)
    await new Promise(resolve => setTimeout(resolve, 4))
  gl.deleteSync(fence)
}

/** Of the resolution along each side, in steps: pictures of other sizes have to be made anew. */
function ratioFor(share: number): number {
  return RATIOS.find(ratio => ratio * ratio <= share * FINER) ?? RATIOS.at(-1)!
}
