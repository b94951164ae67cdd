import type { Matrix4 } from 'three'
import { Box3, Color, Group, NeutralToneMapping, PCFShadowMap, Scene, Vector3, WebGLRenderer } from 'three'
import type { LevelIndex } from '~~/core/scene/level-index'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Solid } from '~~/core/mesh/solid'
import type { SkyFields } from '~~/core/level/sky'
import type { LevelView } from '~~/core/scene/level-view'
import type { Board } from './board'
import type { StepsOf } from './drawables'
import { Drawables } from './drawables'
import type { Quality } from './frame-pace'
import { FramePace } from './frame-pace'
import { Ghost } from './ghost'
import { LampGrid } from './lamp-grid'
import type { Piece } from './level-drawing'
import { LevelDrawing, WHOLE_ERROR } from './level-drawing'
import { clearCanvas, LevelPictures } from './level-pictures'
import { Handles } from './handles/handles'
import type { MarkSettings } from './marks'
import type { LoadPicture } from './materials'
import type { OthersSelection, Selection } from './outlined'
import { Outlined } from './outlined'
import type { Layout } from './panes'
import { Panes } from './panes'
import type { ShapeCopies } from '~~/core/scene/expand'
import { DraftCopies } from './draft-copies'
import { ScenePicture } from './scene-picture'
import type { Preview, ShownNumbers } from './shown-level'
import { ShownLevel } from './shown-level'
import type { Hints } from './snap-hints'
import { SnapHints } from './snap-hints'
import type { LayerKind, NumberAt, StageLayer } from './stage-layer'
import type { GridPlane } from './surroundings'
import { Surroundings } from './surroundings'
import type { Pose } from '~~/core/math/pose'
import type { Lens, Look, Rect } from './view'
import type { View } from './view'

export type StageStats = ShownNumbers & {
  /** Of all that is in sight, what is drawn of a picture that is being built up. */
  drawnShare: number
  /** Pixels that what is drawn may lie off, by meshes that stand for others at a distance. */
  error: number
  /** Metres around what is looked at within which there are shadows; 0 if they are everywhere. */
  shadowReach: number
  framesPerSecond: number
  draws: number
  /** What the active view looks at. */
  target: [number, number, number]
  /** How many lights shine, and whether the level is lent one because it has none. */
  lights: number
  isLent: boolean
}

/** What a stage shows, and what it needs for that. */
export type StageNeeds = {
  level: LevelView
  index: LevelIndex
  /** The mesh a shape names; undefined while it is not there. */
  solidOf: (shape: string) => Solid | undefined
  stepsOf: StepsOf
  /** Whether some of them are on their way: it rests when they are drawn; never when left out. */
  areStepsComing?: () => boolean
  loadPicture: LoadPicture
  /** Whether views go where they are to go at once; they glide when left out. */
  calm?: boolean
  /** What features show besides the level; nothing when left out. */
  layers?: readonly LayerKind[]
}

/**
 * Seconds that a view moves on by in one picture, at the most: one that took long is no jump. Who walks goes as far as
 * the time says.
 */
const [LONGEST_STEP, LONGEST_WALK] = [0.1, 0.5]
/** Milliseconds for showing more of a level that was just opened, in one frame, and after which that is drawn. */
const [FILLING, FILLING_UNSEEN] = [40, 800]
const FIRST_DIRECTION = new Vector3(0.3, 0.37, 0.64)
/**
 * Draws a level in one to four panes. Nothing is drawn unless something changed; while something is dragged, only its
 * own matrices are written. All panes draw the same scene. It reads the level and never writes to it.
 */
export class Stage {
  readonly panes: Panes
  readonly handles = new Handles()
  readonly ghost = new Ghost()
  readonly shown: ShownLevel
  onDrawn: (stats: StageStats) => void = () => {}
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly hints = new SnapHints()
  private readonly surroundings = new Surroundings(this.scene)
  private readonly drawables: Drawables
  private readonly outlined: Outlined
  private readonly draft: DraftCopies
  /** All that is shown besides the level. */
  private readonly layers: readonly StageLayer[]
  /** Those of features, by what they are. */
  private readonly byKind: ReadonlyMap<LayerKind, StageLayer>
  /** What they draw with the level that may be in pictures. */
  private readonly inPictures = new Group()
  /** What they draw with the level that may not. */
  private readonly notInPictures = new Group()
  /** What they draw over it. */
  private readonly over = new Scene()
  private readonly pace: FramePace
  private readonly drawing: LevelDrawing
  private readonly pictures: LevelPictures
  /** The level as it is shown. */
  private shownPicture = new ScenePicture()
  /** As it is built up, over that. */
  private built = new ScenePicture()
  /** Draws the next piece of it; null while nothing is built up. */
  private building: Generator<Piece> | null = null
  /** Draws of the picture so far. */
  private draws = 0
  /** Shows what is not shown yet of a level that was just opened; null when all is. */
  private filling: Generator<void> | null
  /** Counts what makes a picture that is being drawn wrong. */
  private changes = 0
  private readonly ratio = Math.min(globalThis.devicePixelRatio || 1, 2)
  private readonly paper = new Color()
  private backdrop: ShownLevel | null = null
  private frame = 0
  /** Whether it was left. */
  private isOver = false
  private lastTime = performance.now()
  private isMoving = false
  /** Whether outlines are drawn over the picture, not in it. */
  private outlinesOver = true
  private lastQuality: Quality['name'] | null = null
  /** Whether the level itself has to be drawn anew, not only what lies over it. */
  private isStale = true
  private drawnWaiters: (() => void)[] = []
  private restWaiters: (() => void)[] = []

  private readonly index: LevelIndex
  private readonly solidOf: StageNeeds['solidOf']
  private readonly areStepsComing: () => boolean

  constructor(
    private readonly canvas: HTMLCanvasElement,
    { level, index, solidOf, stepsOf, areStepsComing, loadPicture, calm = false, layers = [] }: StageNeeds,
  ) {
    this.index = index
    this.solidOf = solidOf
    this.areStepsComing = areStepsComing ?? (() => false)
    this.renderer = new WebGLRenderer({ canvas, antialias: true, powerPreference: 'high-performance' })
    this.renderer.autoClear = false
    this.renderer.info.autoReset = false
    this.renderer.toneMapping = NeutralToneMapping
    this.renderer.shadowMap.enabled = true
    this.renderer.shadowMap.type = PCFShadowMap
    this.renderer.shadowMap.autoUpdate = false
    this.renderer.setPixelRatio(this.ratio)
    this.pace = new FramePace(this.renderer.getContext() as WebGL2RenderingContext, () => this.requestOverlay())
    const lamps = new LampGrid()
    this.drawables = new Drawables(solidOf, stepsOf, loadPicture, () => this.requestDraw(), lamps.dress)
    this.shown = new ShownLevel(level, this.drawables, lamps)
    this.filling = this.shown.fill()
    this.outlined = new Outlined(level, this.shown, this.drawables)
    this.panes = new Panes(
      calm,
      () => index.bounds(),
      () => this.moves(),
    )
    this.draft = new DraftCopies(this.drawables)
    this.byKind = new Map(layers.map(Kind => [Kind, new Kind()]))
    this.layers = [this.handles, this.hints, ...this.byKind.values(), this.ghost, this.draft]
    for (const { inLevel, over, inPictures } of this.layers) {
      if (inLevel) (inPictures ? this.inPictures : this.notInPictures).add(inLevel)
      if (over) this.over.add(over)
    }
    this.scene.add(this.shown.object, this.inPictures, this.notInPictures)
    this.drawing = new LevelDrawing(
      this.renderer,
      this.scene,
      this.shown,
      this.surroundings,
      this.inPictures,
      this.notInPictures,
      index,
    )
    this.pictures = new LevelPictures(
      { renderer: this.renderer, canvas, pace: this.pace, drawing: this.drawing, paper: this.paper, ratio: this.ratio },
      {
        level: () => index.bounds(),
        state: () => (this.isOver ? null : this.changes),
        rested: () => this.rested(),
        shownAgain: () => this.present(),
      },
    )
    this.sceneChanged()
  }

  /** What a feature shows. @throws RangeError if the stage was made without it */
  layer<L extends StageLayer>(kind: LayerKind<L>): L {
    const layer = this.byKind.get(kind)
    if (!layer) throw new RangeError(`the stage has no ${kind.name}`)
    return layer as L
  }

  /** The number over the level that a pixel is on, the frontmost layer's. */
  numberAt(at: ScreenPoint, view: View): NumberAt | null {
    for (const layer of this.layers) {
      const number = layer.numberAt?.(at, view)
      if (number) return number
    }
    return null
  }

  /** What over the level could be taken hold of at a pixel, besides the handles. */
  graspAt(at: ScreenPoint, view: View): string | null {
    for (const layer of this.layers) {
      const key = layer.graspAt?.(at, view)
      if (key) return key
    }
    return null
  }

  /** Shows a level around the one that is worked on; nothing of it can be picked. */
  surround({ view, matrix, leaveOut }: { view: LevelView; matrix: Matrix4; leaveOut: string }): void {
    // Its lamps are left out, and it has no say in others.
    const backdrop = new ShownLevel(view, this.drawables, new LampGrid())
    this.backdrop = backdrop
    const { filling, drawing, inPictures } = this
    this.filling = (function* () {
      if (filling) yield* filling
      yield* backdrop.fill()
      backdrop.becomeBackdrop(matrix, leaveOut)
      inPictures.add(backdrop.object)
      drawing.around = backdrop
    })()
    this.sceneChanged()
  }

  setBoard(board: Board): void {
    this.surroundings.setBoard(board)
    this.outlined.setBoard(board)
    for (const layer of this.layers) layer.setBoard(board)
    this.shown.marks.setBoard(board)
    this.paper.set(board.colors['sky-horizon'])
    this.requestDraw()
  }

  /** The light around the level. */
  setSky(sky: SkyFields): void {
    this.surroundings.setSky(sky)
    this.shown.lights.setSky(sky)
    this.drawables.materials.setGlow(sky.of === 'night' ? 3.2 : 0.25)
    this.sceneChanged()
  }

  /**
   * @param gridStep metres between the grid's lines; 0 shows none
   * @param hover whether what a click would pick is outlined
   */
  setShown(gridStep: number, sky: boolean, hover: boolean, marks: MarkSettings): void {
    this.outlined.hoverShown = hover
    this.surroundings.setGrid(gridStep)
    this.surroundings.skyShown = sky
    this.shown.marks.setSettings(marks)
    this.requestDraw()
  }

  /** The view that keys and the strips around the stage act in. */
  get view(): View {
    return this.panes.view
  }

  /** The view under a pixel, which becomes the active one. */
  viewAt(at: ScreenPoint): View {
    return this.panes.viewAt(at)
  }

  setLayout(layout: Layout): void {
    this.panes.layOut(this.canvas.clientWidth, this.canvas.clientHeight, layout)
    this.requestDraw()
  }

  resize(width: number, height: number): void {
    this.renderer.setSize(width, height, false)
    this.panes.layOut(this.canvas.clientWidth, this.canvas.clientHeight)
    this.requestDraw()
  }

  /** Shows what a change touched, and everything below it, as it is in the level now. */
  update(touched: Iterable<string>): void {
    this.shown.update(touched)
    this.outlined.redraw()
    this.outlined.prune()
    this.sceneChanged()
  }

  /** Parts look otherwise now; what shows them is updated after this. */
  forget(parts: ReadonlySet<string>): void {
    this.shown.forget(parts)
    this.outlined.forget(parts)
  }

  /**
   * Shows placements somewhere else, and some that are not there yet, without touching the level; until the next call.
   */
  preview(preview?: Preview): void {
    this.shown.preview(preview)
    this.outlined.redraw()
    this.moves()
    this.sceneChanged()
  }

  /** Shows copies that are not in the level, in the world; null shows none. */
  showDraft(copies: readonly ShapeCopies[] | null): void {
    this.draft.show(copies)
    this.requestDraw()
  }

  /** Marks what a drag is or would be caught by. */
  hint(hints: Hints | null): void {
    this.hints.show(hints)
    this.requestOverlay()
  }

  /** Draws the grid in a plane that is worked in, or again in the one each view has by itself. */
  workIn(plane: GridPlane | null): void {
    this.surroundings.workIn(plane)
    this.requestDraw()
  }

  setSelection(selection: Selection): void {
    this.outlined.setSelection(selection)
    if (this.shown.marks.setPicked(selection.ids)) this.requestDraw()
    else this.requestOverlay()
  }

  /** Outlines what others have picked. */
  setOthersPicked(picked: readonly OthersSelection[]): void {
    this.outlined.setOthers(picked)
    this.requestOverlay()
  }

  setHovered(id: string | null): void {
    if (this.outlined.setHovered(id)) this.requestOverlay()
  }

  /** Where in a pane the height of its eye is seen: two points of the canvas; null where it is not. */
  horizonIn(pane: number): [ScreenPoint, ScreenPoint] | null {
    const view = this.panes.views[pane]!
    const { right, forward } = view.directions()
    const level = forward.clone().setY(0)
    if (level.lengthSq() < 1e-6) return null
    const far = view.eye.clone().addScaledVector(level.normalize(), 1000)
    const aside = right.clone().setY(0).normalize().multiplyScalar(1000)
    const [a, b] = [view.project(far.clone().sub(aside)), view.project(far.clone().add(aside))]
    return a && b ? [a, b] : null
  }

  /** The box around the level and all that a preview, a draft or a ghost shows besides. */
  everything(): Box3 {
    const box = this.index.bounds(new Box3())
    const boxOf = (shape: string) => this.solidOf(shape)?.bounds
    this.shown.reachOfPreview(boxOf, box)
    this.draft.reach(boxOf, box)
    return this.ghost.reach(box)
  }

  /** A first look at the whole level from its front, high enough to see what stands behind what. */
  firstLook(): void {
    const box = this.index.bounds()
    const middle = box.isEmpty() ? new Vector3() : box.getCenter(new Vector3())
    const distance = box.isEmpty() ? 14 : box.getSize(new Vector3()).length() * 0.62
    for (const view of this.panes.views) {
      view.setPose({
        eye: FIRST_DIRECTION.clone().multiplyScalar(distance).add(middle),
        target: middle.clone(),
        height: distance,
      })
    }
  }

  /** Brings the selection, or everything if nothing is picked, into view. */
  frameBox(box: Box3, glide = true): void {
    this.view.frame(box, glide)
    this.requestDraw()
  }

  /** For changes of the scene that cast other shadows. */
  sceneChanged(): void {
    this.drawing.shadowsOld = true
    this.requestDraw()
  }

  /** Draws everything anew. */
  requestDraw(): void {
    this.isStale = true
    this.changes++
    this.requestOverlay()
  }

  /** Draws anew what lies over the level: outlines, handles, figures. */
  requestOverlay(): void {
    if (this.isOver) return
    // In a coarse drawing outlines are a part of it.
    if (this.lastQuality === 'moving') this.isStale = true
    if (this.frame === 0) this.frame = requestAnimationFrame(time => this.draw(time))
  }

  /**
   * A hand moves the view, or something on the stage: it is drawn as simply as that takes to follow, and whole when it
   * rests.
   */
  moves(): void {
    this.pace.moved()
    this.requestDraw()
  }

  /** Resolves when all is drawn as it is now; a large level perhaps not whole yet. */
  drawn(): Promise<void> {
    if (this.frame === 0 || (this.building && !this.isStale)) return Promise.resolve()
    return new Promise(resolve => this.drawnWaiters.push(resolve))
  }

  /** Resolves when all is drawn, and whole. */
  rested(): Promise<void> {
    if (this.isOver) return Promise.resolve()
    this.requestOverlay()
    return new Promise(resolve => this.restWaiters.push(resolve))
  }

  /** A picture of the level as the views have it now, without handles and outlines; null if the stage is left. */
  async picture(width: number, height: number): Promise<Blob | null> {
    await this.rested()
    const { canvas, ratio } = this
    const { clientWidth, clientHeight } = canvas
    return this.pictures.ofViews(this.shownViews, { width: clientWidth, height: clientHeight, ratio }, width, height)
  }

  /**
   * A picture of what a camera sees, without handles and outlines; null if the stage is left.
   *
   * @param camera its place and lens
   * @param size pixels
   */
  still(
    camera: { pose: Pose; lens: Lens },
    size: { width: number; height: number },
    shown: { marks: boolean; grid: boolean; look: Look },
  ): Promise<ImageBitmap | null> {
    return this.pictures.ofCamera(camera, size, shown)
  }

  dispose(): void {
    this.isOver = true
    cancelAnimationFrame(this.frame)
    for (const resolve of [...this.drawnWaiters.splice(0), ...this.restWaiters.splice(0)]) resolve()
    this.pace.dispose()
    this.shownPicture.dispose()
    this.built.dispose()
    this.shown.dispose()
    this.backdrop?.dispose()
    this.outlined.dispose()
    for (const layer of this.layers) layer.dispose()
    this.drawables.materials.dispose()
    this.renderer.dispose()
  }

  private draw(time: number): void {
    if (this.filling && !this.fillOn(this.filling)) {
      this.frame = requestAnimationFrame(again => this.draw(again))
      return
    }
    // One frame at a time: of those that are asked for meanwhile only the last is wanted.
    if (this.pace.isBusy) {
      this.frame = requestAnimationFrame(again => this.draw(again))
      return
    }
    this.frame = 0
    const begun = performance.now()
    // After a rest nothing has moved meanwhile.
    const elapsed = this.isMoving ? (time - this.lastTime) / 1000 : 1 / 60
    this.lastTime = time
    const moving = this.panes
      .shown()
      .map(pane => this.panes.views[pane]!)
      .map(view => view.update(Math.min(elapsed, view.driver ? LONGEST_WALK : LONGEST_STEP)))
      .some(Boolean)
    if (moving) this.moves()
    this.isMoving = moving
    this.render(begun)
    if (this.filling) this.requestOverlay()
    if (this.frame !== 0 && !this.building) return
    for (const resolve of this.drawnWaiters.splice(0)) resolve()
    if (this.restWaiters.length > 0) {
      if (this.pace.isResting && !this.building && !this.areStepsComing())
        for (const resolve of this.restWaiters.splice(0)) resolve()
      else this.requestOverlay()
    }
  }

  /** Shows more of a level that was just opened. @returns whether that is to be drawn now */
  private fillOn(filling: Generator<void>): boolean {
    const begun = performance.now()
    let isOver = false
    while (!isOver && performance.now() - begun < FILLING) isOver = filling.next().done === true
    if (!isOver && begun - this.lastTime < FILLING_UNSEEN) return false
    if (isOver) this.filling = null
    this.sceneChanged()
    return true
  }

  /**
   * Draws the level, if it is not as it was drawn last, and what lies over it.
   *
   * @param begun when the work on this frame began
   */
  private render(begun: number): void {
    const { renderer } = this
    const all = this.drawing.triangles
    const quality = this.pace.next(all)
    const isNew = this.isStale || quality.name !== this.lastQuality
    renderer.info.reset()
    if (quality.name === 'whole') this.renderWhole(quality, all, isNew, begun)
    else if (isNew) this.renderCoarse(quality, all, begun)
    this.isStale = false
    this.lastQuality = quality.name
    this.outlinesOver = quality.ratio === 1
    this.present()
  }

  /** Shows the level as it was drawn, and draws what lies over it. */
  private present(): void {
    const { renderer, canvas } = this
    clearCanvas(renderer, this.paper)
    renderer.setViewport(0, 0, canvas.clientWidth, canvas.clientHeight)
    this.shownPicture.show(renderer)
    if (this.building) this.built.show(renderer)
    renderer.setScissorTest(true)
    for (const view of this.shownViews) this.renderOverlay(view, this.outlinesOver)
    renderer.setScissorTest(false)
  }

  private get shownViews(): View[] {
    return this.panes.shown().map(pane => this.panes.views[pane]!)
  }

  /** Draws the next piece of the whole picture; of a large level what fits in a frame comes first. */
  private renderWhole(quality: Quality, all: number, isNew: boolean, begun: number): void {
    const views = this.shownViews
    const isLarge = all * views.length > this.pace.most
    if (isNew) {
      const { clientWidth: width, clientHeight: height } = this.canvas
      this.building = this.pictures.buildUp(this.built, views, { width, height, ratio: this.ratio })
      this.draws = 0
      if (isLarge && this.isStale) {
        this.renderCoarse({ ...quality, triangles: this.pace.pieceSize * 2 }, all, begun)
        this.requestOverlay()
        return
      }
    }
    const { building } = this
    if (!building) return
    let [triangles, share] = [0, 0]
    let piece = building.next()
    while (!piece.done) {
      triangles += piece.value.triangles
      share = piece.value.share
      if (isLarge) break
      piece = building.next()
    }
    this.draws += this.renderer.info.render.calls
    this.pace.asked(isLarge ? { ...quality, name: 'piece' } : quality, triangles, all, begun)
    if (piece.done || share === 1) {
      ;[this.shownPicture, this.built] = [this.built, this.shownPicture]
      this.building = null
    } else this.requestOverlay()
    this.tell(share, this.shown.allTriangles() * views.length > this.pace.most ? WHOLE_ERROR : 0)
  }

  /** Draws of the level what fits in a frame. */
  private renderCoarse(quality: Quality, all: number, begun: number): void {
    const { renderer, canvas, shownPicture: picture } = this
    if (quality.name !== 'whole') this.building = null
    const ratio = this.ratio * quality.ratio
    const panes = this.panes.shown()
    picture.begin(
      renderer,
      Math.max(1, Math.round(canvas.clientWidth * ratio)),
      Math.max(1, Math.round(canvas.clientHeight * ratio)),
      quality.samples,
    )
    for (const pane of panes) {
      const view = this.panes.views[pane]!
      picture.within(view.rect, ratio, canvas.clientHeight, renderer)
      this.drawing.atOnce(view, quality.triangles / panes.length, false)
      // In a coarse picture outlines take no longer than it; else they are drawn sharp over it.
      if (quality.ratio < 1) this.outlined.draw(renderer, view, canvas.clientHeight, { picture, ratio })
    }
    this.draws = this.renderer.info.render.calls
    // While something moves it is drawn more simply for a moment, which is no news.
    this.tell(quality.name === 'whole' ? 0 : 1)
    this.pace.asked(quality, this.drawing.drawnTriangles, all, begun)
  }

  /** @param drawnShare of what is in sight, what is drawn of a picture that is built up */
  private tell(drawnShare: number, error = 0): void {
    this.onDrawn({
      ...this.shown.numbers(),
      drawnShare,
      error,
      shadowReach: this.surroundings.shadowed.isAll ? 0 : this.surroundings.shadowed.reach,
      framesPerSecond: this.pace.framesPerSecond,
      draws: this.draws,
      target: this.view.target.toArray(),
      lights: this.shown.lights.count,
      isLent: !this.shown.lights.isLit,
    })
  }

  private frameOnCanvas({ x, y, width, height }: Rect): void {
    const fromBottom = this.canvas.clientHeight - y - height
    this.renderer.setViewport(x, fromBottom, width, height)
    this.renderer.setScissor(x, fromBottom, width, height)
  }

  /** Draws what lies over the level. @param outlines whether those are not in the drawing already */
  private renderOverlay(view: View, outlines: boolean): void {
    const { renderer } = this
    this.frameOnCanvas(view.rect)
    if (outlines) this.outlined.draw(renderer, view, this.canvas.clientHeight)
    if (!this.layers.some(({ isShown }) => isShown)) return
    for (const layer of this.layers) layer.update(view)
    renderer.clearDepth()
    renderer.render(this.over, view.camera)
  }
}
