/** Milliseconds that drawing a frame may take where something could be left out: of copies alone; and of placements, of which each pointer move may draw all anew. */
const TARGET = { copies: 250, placements: 40 }
/** Triangles of copies that are always drawn: a level of less is slow for other reasons. */
const LEAST = { copies: 500_000, placements: 25_000 }
/** Triangles of placements beyond which some of them may be left out. */
export const HEAVY = 400_000
/** What is drawn of placements in the first frame. */
const FIRST = 60_000
/** By how much the limit may grow at once. */
const GROWTH = 8

/**
 * How many triangles of copies this machine may be asked to draw in a frame, from how long it took for those before. Drawing goes on
 * behind the page's back; a page that asks for too much stands still until it is done.
 */
export class DrawLimit {
  triangles = LEAST.copies
  private of: 'copies' | 'placements' = 'copies'
  private fence: WebGLSync | null = null
  private timer: ReturnType<typeof setTimeout> | undefined

  /** @param redraw is called when more can be drawn than was */
  constructor(private readonly gl: WebGL2RenderingContext, private readonly redraw: () => void) {}

  /** Says whether placements are among what may be left out. */
  limits(of: 'copies' | 'placements'): void {
    if (of === this.of) return
    this.of = of
    this.triangles = of === 'copies' ? LEAST.copies : FIRST
  }

  /**
   * Call after each frame.
   *
   * @param drawn triangles of copies that were drawn
   * @param wanted triangles of all
   */
  drawn(drawn: number, wanted: number): void {
    if (this.fence || wanted < LEAST[this.of]) return
    const start = performance.now()
    const { gl } = this
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
    gl.flush()
    const look = () => {
      if (!this.fence) return
      if (gl.getSyncParameter(this.fence, gl.SYNC_STATUS) !== gl.SIGNALED) {
        this.timer = setTimeout(look, 4)
        return
      }
      this.dropFence()
      this.took(performance.now() - start, drawn, wanted)
    }
    this.timer = setTimeout(look, 4)
  }

  /** Learns from a frame. @param time milliseconds it took */
  took(time: number, drawn: number, wanted: number): void {
    const possible = Math.max(LEAST[this.of], Math.min(drawn / Math.max(time, 1) * TARGET[this.of], this.triangles * GROWTH))
    const isSlow = time > TARGET[this.of] * 2
    if (!isSlow && (drawn >= wanted || possible < this.triangles * 1.3)) return
    this.triangles = possible
    if (!isSlow) this.redraw()
  }

  dispose(): void {
    clearTimeout(this.timer)
    this.dropFence()
  }

  private dropFence(): void {
    this.gl.deleteSync(this.fence)
    this.fence = null
  }
}
