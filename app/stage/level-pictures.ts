import type { Box3, Color, WebGLRenderer } from 'three'
import type { Pose } from '~~/core/math/pose'
import type { ScreenPoint } from '~~/core/math/screen'
import type { FramePace } from './frame-pace'
import { whenDrawn } from './frame-pace'
import type { LevelDrawing, Piece } from './level-drawing'
import { ScenePicture } from './scene-picture'
import type { Lens, Look } from './view'
import { View } from './view'

/** Samples of each pixel of a whole picture. */
const WHOLE_SAMPLES = 4

/** What pictures are drawn with. */
type PictureNeeds = {
  renderer: WebGLRenderer
  canvas: HTMLCanvasElement
  pace: FramePace
  drawing: LevelDrawing
  /** What is seen where nothing is. */
  paper: Color
  /** Pixels of the canvas for each of the page. */
  ratio: number
}

/** What of the stage they have to know. */
type StageState = {
  /** The box around the level. */
  level: () => Box3
  /** Another number when something changed; null when the stage is left. */
  state: () => number | null
  /** Resolves when the stage rests. */
  rested: () => Promise<void>
  /** Shows on the canvas again what was there. */
  shownAgain: () => void
}

/** Pixels of the page, and those of the picture for each of them. */
type Size = { width: number; height: number; ratio: number }

/** Draws the level whole into pictures: for the stage, and for those that are taken of it. */
export class LevelPictures {
  constructor(
    private readonly needs: PictureNeeds,
    private readonly stage: StageState,
  ) {}

  /** Draws views whole, each within its own rectangle, a piece with each step. @param within gets each to draw */
  *buildUp(
    picture: ScenePicture,
    views: readonly View[],
    { width, height, ratio }: Size,
    within: (draw: () => void) => void = draw => draw(),
  ): Generator<Piece> {
    const { renderer, pace, drawing } = this.needs
    picture.begin(
      renderer,
      Math.max(1, Math.round(width * ratio)),
      Math.max(1, Math.round(height * ratio)),
      WHOLE_SAMPLES,
    )
    let done = 0
    for (const view of views) {
      const into = (draw: () => void) =>
        within(() => {
          picture.within(view.rect, ratio, height, renderer)
          draw()
        })
      const most = () => ({ atOnce: pace.most / views.length, piece: pace.pieceSize })
      for (const { triangles, share } of drawing.wholly(view, most, into))
        yield { triangles, share: (done + share) / views.length }
      done++
    }
  }

  /**
   * A picture of views, cut to the proportions of `width` and `height`.
   *
   * @param size of all views
   * @returns null if the stage is left
   */
  async ofViews(views: readonly View[], size: Size, width: number, height: number): Promise<Blob | null> {
    const { canvas } = this.needs
    const copy = document.createElement('canvas')
    copy.width = width
    copy.height = height
    const scale = Math.max(width / canvas.width, height / canvas.height)
    const [w, h] = [width / scale, height / scale]
    const isTaken = await this.take(views, size, { marks: false, grid: true }, () =>
      copy
        .getContext('2d')!
        .drawImage(canvas, (canvas.width - w) / 2, (canvas.height - h) / 2, w, h, 0, 0, width, height),
    )
    if (!isTaken) return null
    return new Promise((resolve, reject) =>
      copy.toBlob(blob => (blob ? resolve(blob) : reject(new Error('no picture'))), 'image/webp', 0.86),
    )
  }

  /**
   * A picture of what a camera sees. It is drawn in parts no larger than the canvas.
   *
   * @param camera its place and lens
   * @param size pixels
   * @returns null if the stage is left
   */
  async ofCamera(
    camera: { pose: Pose; lens: Lens },
    size: { width: number; height: number },
    shown: { marks: boolean; grid: boolean; look: Look },
  ): Promise<ImageBitmap | null> {
    const { canvas } = this.needs
    const picture = new OffscreenCanvas(size.width, size.height)
    const context = picture.getContext('2d')!
    const [across, down] = [Math.min(canvas.width, size.width), Math.min(canvas.height, size.height)]
    const view = new View('walkaround', true, this.stage.level, () => {})
    Object.assign(view, { lens: camera.lens, look: shown.look })
    for (let y = 0; y < size.height; y += down) {
      for (let x = 0; x < size.width; x += across) {
        const [width, height] = [Math.min(across, size.width - x), Math.min(down, size.height - y)]
        view.tile = { ...size, x, y }
        view.setRect({ x: 0, y: 0, width, height })
        view.follow(camera.pose)
        const isTaken = await this.take([view], { width, height, ratio: 1 }, shown, from =>
          context.drawImage(canvas, from.x, from.y, width, height, x, y, width, height),
        )
        if (!isTaken) return null
      }
    }
    return picture.transferToImageBitmap()
  }

  /**
   * Draws views in pieces that let frames of the stage through, and hands the picture over on the canvas for a moment.
   * What changes meanwhile has it begun anew, when all rests.
   *
   * @param use is called with the pixel of the canvas where the picture begins
   * @returns whether it was; not if the stage is left
   */
  private async take(
    views: readonly View[],
    size: Size,
    shown: { marks: boolean; grid: boolean },
    use: (at: ScreenPoint) => void,
  ): Promise<boolean> {
    const { renderer, canvas, pace, drawing, paper } = this.needs
    const picture = new ScenePicture()
    try {
      for (;;) {
        const isLarge = drawing.triangles * views.length > pace.most
        // Shadows follow what is looked at: two pictures that are built up would take them from each other.
        if (isLarge) await this.stage.rested()
        const before = this.stage.state()
        if (before === null) return false
        const isAsBefore = () => this.stage.state() === before
        const pieces = this.buildUp(picture, views, size, draw => drawing.without(shown, draw))
        while (isAsBefore() && !pieces.next().done) {
          renderer.setRenderTarget(null)
          // What is drawn at once is handed over at once.
          if (isLarge) await whenDrawn(renderer.getContext() as WebGL2RenderingContext)
        }
        if (isAsBefore()) break
      }
      const { width, height, ratio } = size
      const scale = ratio / this.needs.ratio
      clearCanvas(renderer, paper)
      renderer.setViewport(0, 0, width * scale, height * scale)
      picture.show(renderer)
      use({ x: 0, y: canvas.height - Math.round(height * ratio) })
      this.stage.shownAgain()
      return true
    } finally {
      picture.dispose()
    }
  }
}

/** What is drawn next goes onto an empty canvas. */
export function clearCanvas(renderer: WebGLRenderer, paper: Color): void {
  renderer.setRenderTarget(null)
  renderer.setScissorTest(false)
  renderer.setClearColor(paper)
  renderer.clear()
}
