import type { Box3, Matrix4 } from 'three'
import { NeutralToneMapping, PCFShadowMap, Scene, Vector3, WebGLRenderer } from 'three'
import type { LevelIndex } from '~~/core/geometry/level-index'
import type { Solid } from '~~/core/geometry/solid'
import type { LevelDocument } from '~~/core/level/document'
import type { Drawable } from './batches'
import { PartBatches } from './batches'
import type { Board } from './board'
import { FrameBudget } from './frame-budget'
import { Ghost } from './ghost'
import { MaterialCache } from './materials'
import { MoveHandles } from './move-handles'
import { Outline } from './outline'
import { Surroundings } from './surroundings'
import { View } from './view'

export type StageStats = { framesPerSecond: number, draws: number, placed: number, triangles: number }

export type Selection = { ids: ReadonlySet<string>, last: string | null }

const FIRST_DIRECTION = new Vector3(0.3, 0.37, 0.64)

/**
 * Draws a level. Nothing is drawn unless something changed; while something is dragged, only its own matrices are written.
 * It reads the document and never writes to it.
 */
export class Stage {
  readonly view: View
  readonly handles = new MoveHandles()
  readonly ghost = new Ghost()
  onDrawn: (stats: StageStats) => void = () => {}
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly surroundings = new Surroundings(this.scene)
  private readonly materials = new MaterialCache()
  private readonly batches: PartBatches
  private readonly outline: Outline
  private readonly budget: FrameBudget
  private selection: Selection = { ids: new Set(), last: null }
  private hovered: string | null = null
  private previewed = new Map<string, Matrix4>()
  private frame = 0
  private lastTime = 0
  private drawnWaiters: (() => void)[] = []

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly document: LevelDocument,
    private readonly index: LevelIndex,
    private readonly solidOf: (partId: string) => Solid | undefined,
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
    this.batches = new PartBatches(partId => this.drawableOf(partId), true)
    this.outline = new Outline(partId => this.drawableOf(partId))
    this.view = new View(canvas, calm, () => this.requestDraw())
    this.scene.add(this.batches.object, this.ghost.object)
    for (const { id } of document.placements()) this.showPlacement(id)
    this.sceneChanged()
  }

  setBoard(board: Board): void {
    this.surroundings.setBoard(board)
    this.outline.setBoard(board)
    this.handles.setBoard(board)
    this.ghost.setBoard(board)
    this.materials.setGlow(board.name === 'night' ? 3.2 : 0.25)
    this.requestDraw()
  }

  setGrid(step: number): void {
    this.surroundings.setGrid(step)
    this.requestDraw()
  }

  resize(width: number, height: number): void {
    this.renderer.setSize(width, height, false)
    this.view.resize(width, height)
    this.requestDraw()
  }

  /** Shows what a change touched, and everything below it, as it is in the document now. */
  update(touched: Iterable<string>): void {
    for (const id of touched) {
      if (!this.document.has(id)) this.batches.remove(id)
      else for (const below of this.document.subtree(id)) this.showPlacement(below)
    }
    this.drawOutlines()
    this.sceneChanged()
  }

  /** Shows placements somewhere else without touching the document, until the next call or `update`. */
  preview(matrices: Map<string, Matrix4>): void {
    const before = this.previewed
    this.previewed = matrices
    for (const id of before.keys()) if (!matrices.has(id)) this.showPlacement(id)
    for (const id of matrices.keys()) this.showPlacement(id)
    this.drawOutlines()
    this.sceneChanged()
  }

  setSelection(selection: Selection): void {
    this.selection = selection
    this.drawOutlines()
    this.requestDraw()
  }

  setHovered(id: string | null): void {
    if (id === this.hovered) return
    this.hovered = id
    this.outline.clear('hovered')
    if (id !== null && !this.selection.ids.has(id)) this.outlineBelow('hovered', id)
    this.requestDraw()
  }

  /** A first look at the whole level from its front, high enough to see what stands behind what. */
  firstLook(): void {
    const box = this.index.bounds()
    const middle = box.isEmpty() ? new Vector3() : box.getCenter(new Vector3())
    const distance = box.isEmpty() ? 14 : box.getSize(new Vector3()).length() * 0.74
    this.view.lookFrom(FIRST_DIRECTION.clone().multiplyScalar(distance).add(middle), middle)
    this.requestDraw()
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
    this.view.dispose()
    this.outline.dispose()
    this.handles.dispose()
    this.ghost.dispose()
    this.batches.dispose()
    this.materials.dispose()
    this.renderer.dispose()
  }

  private showPlacement(id: string): void {
    const placement = this.document.need(id)
    if (placement.partId === null || this.document.isHidden(id)) this.batches.remove(id)
    else this.batches.set(id, placement.partId, this.matrixOf(id))
  }

  private matrixOf(id: string): Matrix4 {
    return this.previewed.get(id) ?? this.document.worldMatrix(id)
  }

  private drawOutlines(): void {
    this.outline.clear('picked')
    this.outline.clear('last')
    for (const id of this.selection.ids) {
      if (this.document.has(id)) this.outlineBelow(id === this.selection.last ? 'last' : 'picked', id)
    }
  }

  private outlineBelow(kind: 'picked' | 'last' | 'hovered', id: string): void {
    for (const below of this.document.subtree(id)) {
      const { partId } = this.document.need(below)
      if (partId !== null && !this.document.isHidden(below)) this.outline.set(kind, below, partId, this.matrixOf(below))
    }
  }

  private drawableOf(partId: string): Drawable | undefined {
    const solid = this.solidOf(partId)
    return solid?.mesh.primitives.map((primitive, i) => ({
      geometry: solid.geometries[i]!,
      material: this.materials.get(primitive.material),
      triangles: primitive.indices.length / 3,
    }))
  }

  private draw(time: number): void {
    this.frame = 0
    const seconds = Math.min((time - this.lastTime) / 1000, 0.1)
    this.lastTime = time
    const moving = this.view.update(seconds)
    const framesPerSecond = this.budget.count(time)
    if (this.renderer.shadowMap.needsUpdate) this.surroundings.coverWithShadow(this.index.bounds(), this.view.target)
    this.render(true)
    if (moving) this.requestDraw()
    else this.budget.rest(() => this.requestDraw())
    const { placed, triangles } = this.batches.count()
    this.onDrawn({ framesPerSecond, draws: this.renderer.info.render.calls, placed, triangles })
    if (this.frame === 0) for (const resolve of this.drawnWaiters.splice(0)) resolve()
  }

  private render(marks: boolean): void {
    const { renderer, view } = this
    const { camera } = view
    renderer.info.reset()
    this.surroundings.follow(camera.position, camera.far)
    this.handles.update(view)
    const ghostShown = this.ghost.object.visible
    this.ghost.object.visible = marks && ghostShown
    renderer.clear()
    renderer.render(this.scene, camera)
    this.ghost.object.visible = ghostShown
    if (!marks) return
    this.outline.draw(renderer, camera)
    if (this.handles.isShown) {
      renderer.clearDepth()
      renderer.render(this.handles.scene, camera)
    }
  }
}
