import type { Box3, Matrix4 } from 'three'
import { Color, NeutralToneMapping, PCFShadowMap, Scene, Vector3, WebGLRenderer } from 'three'
import type { LevelIndex } from '~~/core/geometry/level-index'
import type { ScreenPoint } from '~~/core/geometry/screen'
import type { Solid } from '~~/core/geometry/solid'
import type { LevelDocument } from '~~/core/level/document'
import { copyOf } from '~~/core/arrange/copy'
import type { Arranged } from '~~/core/arrange/expand'
import { hugsGround } from '~~/core/arrange/settle'
import { Arrangements } from './arrangements'
import type { Drawable } from './batches'
import { PartBatches } from './batches'
import type { Board } from './board'
import { DrawLimit } from './draw-limit'
import { FrameBudget } from './frame-budget'
import { Ghost } from './ghost'
import { Handles } from './handles/handles'
import { isLight, LevelLights } from './level-lights'
import type { MarkSettings } from './marks'
import { isMarkKind, Marks } from './marks'
import { MaterialCache } from './materials'
import { Outline } from './outline'
import type { Layout } from './panes'
import { Panes } from './panes'
import type { Hints } from './snap-hints'
import { SnapHints } from './snap-hints'
import type { GridPlane } from './surroundings'
import { Surroundings } from './surroundings'
import type { View } from './view'

export type StageStats = {
  framesPerSecond: number
  /** Of the copies; the others are left out because this machine could not draw them in time. */
  drawnShare: number
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

const FIRST_DIRECTION = new Vector3(0.3, 0.37, 0.64)
/**
 * Draws a level in one to four panes. Nothing is drawn unless something changed; while something is dragged, only its own
 * matrices are written. All panes draw the same scene. It reads the document and never writes to it.
 */
export class Stage {
  readonly panes: Panes
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
  private readonly arrangements: Arrangements
  private readonly outline: Outline
  private readonly budget: FrameBudget
  private readonly limit: DrawLimit
  private readonly paper = new Color()
  private selection: Selection = { ids: new Set(), last: null }
  private hovered: string | null = null
  private hoverShown = true
  private previewed = NOTHING
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
    this.limit = new DrawLimit(this.renderer.getContext() as WebGL2RenderingContext, () => this.sceneChanged())
    this.batches = new PartBatches((shape, mirrored) => this.drawableOf(shape, mirrored), true)
    this.arrangements = new Arrangements(document, (shape, mirrored) => this.drawableOf(shape, mirrored), shape => this.boxOf(shape), this.marks, this.lights, id => this.matrixOf(id))
    this.outline = new Outline((shape, mirrored) => this.drawableOf(shape, mirrored), shape => this.boxOf(shape))
    this.panes = new Panes(calm, () => index.bounds(), () => this.requestDraw())
    this.handles.scene.add(this.hints.object)
    this.scene.add(this.batches.object, this.arrangements.copies.object, this.ghost.object, this.marks.object, this.lights.object)
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

  /** Shows what a change touched, and everything below it, as it is in the document now. */
  update(touched: Iterable<string>): void {
    for (const id of touched) {
      this.arrangements.forget(id)
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
    this.arrangements.preview(preview.arranged)
    const stale = new Set([...before.arranged.keys(), ...preview.arranged.keys()])
    // A source that moves moves the copies of all that it is in.
    for (const id of [...before.written, ...preview.written]) for (const above of this.arrangementsAbove(id)) stale.add(above)
    for (const id of [...before.matrices.keys(), ...preview.matrices.keys()]) if (this.document.arrangementIds.has(id) && hugsGround(this.document.need(id).own)) stale.add(id)
    for (const id of stale) {
      this.arrangements.forget(id)
      if (this.document.has(id)) this.showPlacement(id)
    }
    for (const id of before.fresh.keys()) if (!preview.fresh.has(id) && !this.document.has(id)) this.batches.remove(id)
    for (const id of before.matrices.keys()) if (!preview.matrices.has(id) && this.document.has(id)) this.showPlacement(id)
    for (const [id, matrix] of preview.matrices) {
      const shape = preview.fresh.get(id)
      if (this.document.has(id)) this.showPlacement(id)
      else if (shape !== undefined) this.batches.set(id, shape, matrix)
    }
    for (const [id, { own, sources }] of preview.arranged) {
      // Those that are there are shown already.
      if (this.document.has(id)) continue
      this.arrangements.show(id)
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
    for (const view of this.panes.views) {
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
    this.limit.dispose()
    this.marks.dispose()
    this.lights.dispose()
    this.outline.dispose()
    this.handles.dispose()
    this.hints.dispose()
    this.ghost.dispose()
    this.batches.dispose()
    this.arrangements.copies.clear()
    this.materials.dispose()
    this.renderer.dispose()
  }

  private showPlacement(id: string): void {
    if (copyOf(id)) return
    const { kind, own } = this.document.need(id)
    const shape = this.document.shapeOf(id)
    const shown = !this.document.isHidden(id) && !this.document.isSource(id)
    if (kind === 'arrangement' && shown) this.arrangements.show(id)
    else this.arrangements.remove(id)
    if (shape !== null && shown) this.batches.set(id, shape, this.matrixOf(id))
    else this.batches.remove(id)
    if (isMarkKind(kind) && shown) this.marks.set(id, kind, this.matrixOf(id))
    else this.marks.remove(id)
    if (isLight(own) && shown) this.lights.set(id, own, this.matrixOf(id))
    else this.lights.remove(id)
  }

  private hide(id: string): void {
    this.batches.remove(id)
    this.arrangements.remove(id)
    this.marks.remove(id)
    this.lights.remove(id)
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
      this.outline.setCopies(kind, id, this.arrangements.shapesOfCopy(id), this.matrixOf(copy.arrangementId))
      return
    }
    for (const below of this.document.subtree(id)) {
      if (this.document.isHidden(below)) continue
      const isSource = this.document.isSource(below)
      if (!isSource && this.document.arrangementIds.has(below)) this.outline.setCopies(kind, below, this.arrangements.shapesOf(below), this.matrixOf(below))
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
    const moving = this.panes.shown().map(pane => this.panes.views[pane]!.update(seconds)).some(Boolean)
    const framesPerSecond = this.budget.count(time)
    if (this.renderer.shadowMap.needsUpdate) this.surroundings.coverWithShadow(this.index.bounds(), this.view.target)
    this.arrangements.copies.thinTo(this.limit.triangles)
    this.render(true)
    this.limit.drawn(this.arrangements.copies.drawnTriangles(), this.arrangements.copies.count().triangles)
    if (moving) this.requestDraw()
    else this.budget.rest(() => this.requestDraw())
    this.report(framesPerSecond)
    if (this.frame === 0) for (const resolve of this.drawnWaiters.splice(0)) resolve()
  }

  private report(framesPerSecond: number): void {
    const [single, copies] = [this.batches.count(), this.arrangements.copies.count()]
    const [placed, triangles] = [single.placed + copies.placed, single.triangles + copies.triangles]
    let [instanced, copied] = [this.batches.matrixBytes() + copies.placed * 64, 0]
    const counted = new Set<string>()
    for (const [shape, count] of [...this.batches.uses(), ...this.arrangements.copies.uses()]) {
      const bytes = this.solidOf(shape)?.bytes ?? 0
      if (!counted.has(shape)) instanced += bytes
      counted.add(shape)
      copied += bytes * count
    }
    const drawnShare = copies.triangles > 0 ? this.arrangements.copies.drawnTriangles() / copies.triangles : 1
    this.onDrawn({ drawnShare, framesPerSecond, draws: this.renderer.info.render.calls, placed, triangles, memory: { instanced, copied }, target: this.view.target.toArray() })
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
    for (const pane of this.panes.shown()) this.renderPane(this.panes.views[pane]!, marks)
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
    this.arrangements.copies.dress(plain => this.materials.forLook(plain, view.look))
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
