import type { Box3, Matrix4 } from 'three'
import { Color, NeutralToneMapping, PCFShadowMap, Scene, Vector3, WebGLRenderer } from 'three'
import type { LevelIndex } from '~~/core/geometry/level-index'
import type { ScreenPoint } from '~~/core/geometry/screen'
import type { Solid } from '~~/core/geometry/solid'
import type { LevelDocument } from '~~/core/level/document'
import type { ViewKind } from '~~/core/view/pose'
import { copyOf } from '~~/core/arrange/copy'
import { CopyPlaces } from '~~/core/arrange/count'
import type { Arranged, ShapeCopies } from '~~/core/arrange/expand'
import { arrangedOf, expand, onlyCopy } from '~~/core/arrange/expand'
import { hugsGround } from '~~/core/arrange/settle'
import type { Drawable } from './batches'
import { PartBatches } from './batches'
import type { Board } from './board'
import { CopyBatches } from './copy-batches'
import { FrameBudget } from './frame-budget'
import { Ghost } from './ghost'
import { Handles } from './handles/handles'
import { isLight, LevelLights } from './level-lights'
import type { MarkSettings } from './marks'
import { Marks } from './marks'
import { MaterialCache } from './materials'
import { Outline } from './outline'
import type { Hints } from './snap-hints'
import { SnapHints } from './snap-hints'
import type { GridPlane } from './surroundings'
import { Surroundings } from './surroundings'
import type { Rect } from './view'
import { View } from './view'

export type StageStats = {
  framesPerSecond: number
  draws: number
  placed: number
  triangles: number
  /** Bytes of meshes and matrices as they are, and what full copies of the meshes would take. */
  memory: { instanced: number, copied: number }
  /** What the active view looks at. */
  target: [number, number, number]
}

export type Selection = { ids: ReadonlySet<string>, last: string | null }

/** What is shown elsewhere than in the document. */
export type Preview = {
  matrices: ReadonlyMap<string, Matrix4>
  /** The shapes of those that the document does not have yet. */
  fresh: ReadonlyMap<string, string>
  /** Arrangements that are other than in the document, or not there yet. */
  arranged: ReadonlyMap<string, Arranged>
  /** Which are themselves other, not only moved along with what they hang from. */
  written: ReadonlySet<string>
}

const NOTHING: Preview = { matrices: new Map(), fresh: new Map(), arranged: new Map(), written: new Set() }

export type Layout = 'one' | 'two' | 'four'

const FIRST_DIRECTION = new Vector3(0.3, 0.37, 0.64)
const PANES: ViewKind[] = ['walkaround', 'plan', 'front', 'side']
/** Pixels between panes. */
const GAP = 2

/**
 * Draws a level in one to four panes. Nothing is drawn unless something changed; while something is dragged, only its own
 * matrices are written. All panes draw the same scene. It reads the document and never writes to it.
 */
export class Stage {
  readonly views: View[]
  readonly handles = new Handles()
  readonly ghost = new Ghost()
  readonly marks = new Marks()
  onDrawn: (stats: StageStats) => void = () => {}
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly hints = new SnapHints()
  private readonly surroundings = new Surroundings(this.scene)
  private readonly materials = new MaterialCache()
  private readonly lights = new LevelLights()
  private readonly batches: PartBatches
  private readonly copies: CopyBatches
  private readonly outline: Outline
  private readonly budget: FrameBudget
  private readonly paper = new Color()
  private selection: Selection = { ids: new Set(), last: null }
  private hovered: string | null = null
  private hoverShown = true
  private previewed = NOTHING
  /** What arrangements show, until that changes; not when one is only moved. */
  private readonly expanded = new Map<string, readonly ShapeCopies[]>()
  private layout: Layout = 'one'
  private readonly everShown = new WeakSet<View>()
  private active = 0
  private frame = 0
  private lastTime = 0
  private drawnWaiters: (() => void)[] = []

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly document: LevelDocument,
    private readonly index: LevelIndex,
    private readonly solidOf: (shape: string) => Solid | undefined,
    calm: boolean,
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, powerPreference: 'high-performance' })
    this.renderer.autoClear = false
    this.renderer.info.autoReset = false
    this.renderer.toneMapping = NeutralToneMapping
    this.renderer.shadowMap.enabled = true
    this.renderer.shadowMap.type = PCFShadowMap
    this.renderer.shadowMap.autoUpdate = false
    this.budget = new FrameBudget(Math.min(globalThis.devicePixelRatio || 1, 2), ratio => this.renderer.setPixelRatio(ratio))
    this.batches = new PartBatches((shape, mirrored) => this.drawableOf(shape, mirrored), true)
    this.copies = new CopyBatches((shape, mirrored) => this.drawableOf(shape, mirrored), shape => this.boxOf(shape), true)
    this.outline = new Outline((shape, mirrored) => this.drawableOf(shape, mirrored), shape => this.boxOf(shape))
    this.views = PANES.map(kind => new View(kind, calm, () => index.bounds(), () => this.requestDraw()))
    this.handles.scene.add(this.hints.object)
    this.scene.add(this.batches.object, this.copies.object, this.ghost.object, this.marks.object, this.lights.object)
    for (const { id } of document.placements()) this.showPlacement(id)
    this.sceneChanged()
  }

  setBoard(board: Board): void {
    this.surroundings.setBoard(board)
    this.outline.setBoard(board)
    this.handles.setBoard(board)
    this.hints.setBoard(board)
    this.ghost.setBoard(board)
    this.marks.setBoard(board)
    this.paper.set(board.skyHorizon)
    this.materials.setGlow(board.name === 'night' ? 3.2 : 0.25)
    this.requestDraw()
  }

  /**
   * @param gridStep metres between the grid's lines; 0 shows none
   * @param hover whether what a click would pick is outlined
   */
  setShown(gridStep: number, sky: boolean, hover: boolean, marks: MarkSettings): void {
    this.hoverShown = hover
    this.surroundings.setGrid(gridStep)
    this.surroundings.skyShown = sky
    this.marks.setSettings(marks)
    this.requestDraw()
  }

  /** The view that keys and the strips around the stage act in: the one last pointed at. */
  get view(): View {
    return this.views[this.active]!
  }

  get activePane(): number {
    return this.active
  }

  /** The view under a pixel, which becomes the active one. */
  viewAt(at: ScreenPoint): View {
    const found = this.shownPanes().find(pane => this.views[pane]!.contains(at))
    if (found !== undefined && found !== this.active) this.active = found
    return this.view
  }

  setLayout(layout: Layout): void {
    this.layout = layout
    this.arrange()
  }

  resize(width: number, height: number): void {
    this.renderer.setSize(width, height, false)
    this.arrange()
  }

  /** Shows what a change touched, and everything below it, as it is in the document now. */
  update(touched: Iterable<string>): void {
    for (const id of touched) {
      this.expanded.delete(id)
      if (!this.document.has(id)) this.hide(id)
      else for (const below of this.document.subtree(id)) this.showPlacement(below)
    }
    this.drawOutlines()
    this.batches.prune()
    this.outline.prune()
    this.sceneChanged()
  }

  /** Shows placements somewhere else, and some that are not there yet, without touching the document; until the next call. */
  preview(preview = NOTHING): void {
    const before = this.previewed
    this.previewed = preview
    const stale = new Set([...before.arranged.keys(), ...preview.arranged.keys()])
    // A source that moves moves the copies of all that it is in.
    for (const id of [...before.written, ...preview.written]) for (const above of this.arrangementsAbove(id)) stale.add(above)
    for (const id of [...before.matrices.keys(), ...preview.matrices.keys()]) if (this.document.arrangementIds.has(id) && hugsGround(this.document.need(id).own)) stale.add(id)
    for (const id of stale) {
      this.expanded.delete(id)
      if (this.document.has(id)) this.showPlacement(id)
    }
    for (const id of before.fresh.keys()) if (!preview.fresh.has(id) && !this.document.has(id)) this.batches.remove(id)
    for (const id of before.arranged.keys()) if (!preview.arranged.has(id) && !this.document.has(id)) this.copies.remove(id)
    for (const id of before.matrices.keys()) if (!preview.matrices.has(id) && this.document.has(id)) this.showPlacement(id)
    for (const [id, matrix] of preview.matrices) {
      const shape = preview.fresh.get(id)
      if (this.document.has(id)) this.showPlacement(id)
      else if (shape !== undefined) this.batches.set(id, shape, matrix)
    }
    for (const [id, { own, sources }] of preview.arranged) {
      // Those that are there are shown already.
      if (this.document.has(id)) continue
      this.copies.set(id, this.copiesOf(id), this.matrixOf(id))
      if (own.rule.rule !== 'mirror') for (const source of sources) for (const below of this.document.subtree(source)) this.hide(below)
    }
    this.drawOutlines()
    this.sceneChanged()
  }

  /** Marks what a drag is or would be caught by. */
  hint(hints: Hints | null): void {
    this.hints.show(hints)
    this.requestDraw()
  }

  /** Draws the grid in a plane that is worked in, or again in the one each view has by itself. */
  workIn(plane: GridPlane | null): void {
    this.surroundings.workIn(plane)
    this.requestDraw()
  }

  setSelection(selection: Selection): void {
    this.selection = selection
    this.marks.setPicked(selection.ids)
    this.drawOutlines()
    this.requestDraw()
  }

  setHovered(id: string | null): void {
    if (id === this.hovered) return
    this.hovered = id
    this.outline.clear('hovered')
    if (id !== null && this.hoverShown && !this.selection.ids.has(id)) this.outlineBelow('hovered', id)
    this.requestDraw()
  }

  /** A first look at the whole level from its front, high enough to see what stands behind what. */
  firstLook(): void {
    const box = this.index.bounds()
    const middle = box.isEmpty() ? new Vector3() : box.getCenter(new Vector3())
    const distance = box.isEmpty() ? 14 : box.getSize(new Vector3()).length() * 0.62
    for (const view of this.views) {
      view.setPose({ eye: FIRST_DIRECTION.clone().multiplyScalar(distance).add(middle), target: middle.clone(), height: distance })
    }
  }

  /** Brings the selection, or everything if nothing is picked, into view. */
  frameBox(box: Box3, glide = true): void {
    this.view.frame(box, glide)
    this.requestDraw()
  }

  /** For changes of the scene that cast other shadows. */
  sceneChanged(): void {
    this.renderer.shadowMap.needsUpdate = true
    this.requestDraw()
  }

  requestDraw(): void {
    if (this.frame === 0) this.frame = requestAnimationFrame(time => this.draw(time))
  }

  /** Resolves when nothing is left to draw. */
  drawn(): Promise<void> {
    if (this.frame === 0) return Promise.resolve()
    return new Promise(resolve => this.drawnWaiters.push(resolve))
  }

  /** A picture of the level as the view has it now, without handles and outlines. */
  async picture(width: number, height: number): Promise<Blob> {
    this.render(false)
    const copy = document.createElement('canvas')
    copy.width = width
    copy.height = height
    const scale = Math.max(width / this.canvas.width, height / this.canvas.height)
    const [w, h] = [width / scale, height / scale]
    copy.getContext('2d')!.drawImage(this.canvas, (this.canvas.width - w) / 2, (this.canvas.height - h) / 2, w, h, 0, 0, width, height)
    this.requestDraw()
    return new Promise((resolve, reject) => copy.toBlob(blob => blob ? resolve(blob) : reject(new Error('no picture')), 'image/webp', 0.86))
  }

  dispose(): void {
    cancelAnimationFrame(this.frame)
    this.budget.dispose()
    this.marks.dispose()
    this.lights.dispose()
    this.outline.dispose()
    this.handles.dispose()
    this.hints.dispose()
    this.ghost.dispose()
    this.batches.dispose()
    this.copies.clear()
    this.materials.dispose()
    this.renderer.dispose()
  }

  private showPlacement(id: string): void {
    if (copyOf(id)) return
    const { kind, own } = this.document.need(id)
    const shape = this.document.shapeOf(id)
    const shown = !this.document.isHidden(id) && !this.document.isSource(id)
    if (kind === 'arrangement' && shown) this.copies.set(id, this.copiesOf(id), this.matrixOf(id))
    else this.copies.remove(id)
    if (shape !== null && shown) this.batches.set(id, shape, this.matrixOf(id))
    else this.batches.remove(id)
    if ((kind === 'camera' || kind === 'light' || kind === 'marker') && shown) this.marks.set(id, kind, this.matrixOf(id))
    else this.marks.remove(id)
    if (isLight(own) && shown) this.lights.set(id, own, this.matrixOf(id))
    else this.lights.remove(id)
  }

  private hide(id: string): void {
    this.batches.remove(id)
    this.copies.remove(id)
    this.marks.remove(id)
    this.lights.remove(id)
  }

  private copiesOf(id: string): readonly ShapeCopies[] {
    let found = this.expanded.get(id)
    if (!found) this.expanded.set(id, found = expand(this.document, id, { worldMatrix: other => this.matrixOf(other), arranged: other => this.arrangedOf(other) }))
    return found
  }

  private arrangedOf(id: string): Arranged {
    return this.previewed.arranged.get(id) ?? arrangedOf(this.document, id)
  }

  private arrangementsAbove(id: string): string[] {
    const found: string[] = []
    if (!this.document.has(id)) return found
    for (let at = this.document.arrangementAbove(id); at !== null; at = this.document.arrangementAbove(at)) found.push(at)
    return found
  }

  private matrixOf(id: string): Matrix4 {
    return this.previewed.matrices.get(id) ?? this.document.worldMatrix(id)
  }

  private drawOutlines(): void {
    this.outline.clear('picked')
    this.outline.clear('last')
    for (const id of this.selection.ids) {
      if (this.document.has(id)) this.outlineBelow(id === this.selection.last ? 'last' : 'picked', id)
    }
  }

  private outlineBelow(kind: 'picked' | 'last' | 'hovered', id: string): void {
    const copy = copyOf(id)
    if (copy) {
      const index = new CopyPlaces(this.arrangedOf(copy.arrangementId).own.rule).indexOf(copy.key)
      if (index !== null) this.outline.setCopies(kind, id, onlyCopy(this.copiesOf(copy.arrangementId), index), this.matrixOf(copy.arrangementId))
      return
    }
    for (const below of this.document.subtree(id)) {
      if (this.document.isHidden(below)) continue
      const isSource = this.document.isSource(below)
      if (!isSource && this.document.arrangementIds.has(below)) this.outline.setCopies(kind, below, this.copiesOf(below), this.matrixOf(below))
      // A source that is picked itself is outlined where it stands; the arrangement with all of its copies.
      if (isSource && below !== id && !this.document.isSource(id)) continue
      const shape = this.document.shapeOf(below)
      if (shape !== null) this.outline.set(kind, below, shape, this.matrixOf(below))
    }
  }

  private drawableOf(shape: string, mirrored: boolean): Drawable | undefined {
    const solid = this.solidOf(shape)
    const geometries = mirrored ? solid?.mirrored : solid?.geometries
    return solid?.mesh.primitives.map((primitive, i) => ({
      geometry: geometries![i]!,
      material: this.materials.get(primitive.material),
      triangles: primitive.indices.length / 3,
    }))
  }

  /** The box around a shape, in the finish of its first triangles. */
  private boxOf(shape: string): Drawable | undefined {
    const solid = this.solidOf(shape)
    return solid && [{ geometry: solid.box, material: this.materials.get(solid.mesh.primitives[0]!.material), triangles: 12 }]
  }

  private draw(time: number): void {
    this.frame = 0
    const seconds = Math.min((time - this.lastTime) / 1000, 0.1)
    this.lastTime = time
    const moving = this.shownPanes().map(pane => this.views[pane]!.update(seconds)).some(Boolean)
    const framesPerSecond = this.budget.count(time)
    if (this.renderer.shadowMap.needsUpdate) this.surroundings.coverWithShadow(this.index.bounds(), this.view.target)
    this.render(true)
    if (moving) this.requestDraw()
    else this.budget.rest(() => this.requestDraw())
    this.report(framesPerSecond)
    if (this.frame === 0) for (const resolve of this.drawnWaiters.splice(0)) resolve()
  }

  /** Fits the panes into the canvas. */
  private arrange(): void {
    const { clientWidth: width, clientHeight: height } = this.canvas
    const [halfX, halfY] = [(width - GAP) / 2, (height - GAP) / 2]
    const whole: Rect = { x: 0, y: 0, width, height }
    if (this.layout === 'one') this.view.setRect(whole)
    else if (this.layout === 'two') [0, 1].forEach(pane => this.views[pane]!.setRect({ x: pane * (halfX + GAP), y: 0, width: halfX, height }))
    else this.views.forEach((view, pane) => view.setRect({ x: pane % 2 * (halfX + GAP), y: Math.floor(pane / 2) * (halfY + GAP), width: halfX, height: halfY }))
    if (!this.shownPanes().includes(this.active)) this.active = 0
    for (const pane of this.shownPanes()) this.firstShown(this.views[pane]!)
    this.requestDraw()
  }

  /** A fixed view shows the whole level when its pane is opened for the first time. */
  private firstShown(view: View): void {
    if (view.kind === 'walkaround' || this.everShown.has(view)) return
    this.everShown.add(view)
    view.frame(this.index.bounds(), false)
  }

  /** Numbers of the panes that are shown. */
  shownPanes(): number[] {
    return this.layout === 'one' ? [this.active] : this.layout === 'two' ? [0, 1] : [0, 1, 2, 3]
  }

  private report(framesPerSecond: number): void {
    const [single, copies] = [this.batches.count(), this.copies.count()]
    const [placed, triangles] = [single.placed + copies.placed, single.triangles + copies.triangles]
    let [instanced, copied] = [this.batches.matrixBytes() + copies.placed * 64, 0]
    const counted = new Set<string>()
    for (const [shape, count] of [...this.batches.uses(), ...this.copies.uses()]) {
      const bytes = this.solidOf(shape)?.bytes ?? 0
      if (!counted.has(shape)) instanced += bytes
      counted.add(shape)
      copied += bytes * count
    }
    this.onDrawn({ framesPerSecond, draws: this.renderer.info.render.calls, placed, triangles, memory: { instanced, copied }, target: this.view.target.toArray() })
  }

  private render(marks: boolean): void {
    const { renderer } = this
    renderer.info.reset()
    renderer.setScissorTest(false)
    renderer.setClearColor(this.paper)
    renderer.clear()
    renderer.setScissorTest(true)
    const ghostShown = this.ghost.object.visible
    this.ghost.object.visible = marks && ghostShown
    this.marks.object.visible = marks
    for (const pane of this.shownPanes()) this.renderPane(this.views[pane]!, marks)
    this.ghost.object.visible = ghostShown
    renderer.setScissorTest(false)
  }

  private renderPane(view: View, marks: boolean): void {
    const { renderer } = this
    const { camera, rect } = view
    const fromBottom = this.canvas.clientHeight - rect.y - rect.height
    renderer.setViewport(rect.x, fromBottom, rect.width, rect.height)
    renderer.setScissor(rect.x, fromBottom, rect.width, rect.height)
    const across = view.kind === 'walkaround' ? 0 : view.metresPerPixel(view.target) * Math.max(rect.width, rect.height)
    this.surroundings.follow(across > 0 ? view.target : camera.position, camera.far, across, view.kind)
    this.surroundings.light(view.look === 'even', this.lights.hasSun)
    this.lights.shine(view.look !== 'even')
    this.batches.dress(plain => this.materials.forLook(plain, view.look))
    this.copies.dress(plain => this.materials.forLook(plain, view.look))
    this.marks.update(view)
    renderer.render(this.scene, camera)
    if (!marks) return
    this.outline.draw(renderer, view)
    if (this.handles.isShown || this.hints.isShown) {
      this.handles.update(view)
      this.hints.update(view)
      renderer.clearDepth()
      renderer.render(this.handles.scene, camera)
    }
  }
}
