import type { ScreenPoint } from '~~/core/geometry/screen'
import type { MoveConstraint } from '~~/core/handles/move'
import { CanvasTexture, Color, CylinderGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial, Quaternion, Ray, RingGeometry, Scene, Sprite, SpriteMaterial, SRGBColorSpace, Plane, Vector3 } from 'three'
import { AXES } from '~~/core/handles/move'
import type { Board } from './board'
import type { View } from './view'

type AxisIndex = 0 | 1 | 2

/** Sizes on the screen, in pixels. */
const STICK = 74
const PEG = 11
const SECTOR = { from: 20, to: 36 }
const CENTRE = 8
/** How far beside a handle a press still counts. */
const REACH = 4
const LETTERS = ['X', 'Y', 'Z'] as const

/**
 * The Move handles: a stick for each axis that ends in a round peg with its letter, a quarter-disc between two sticks for
 * their plane, and a small square in the middle for the plane of the screen. They keep their size on the screen, and the
 * sticks point to the viewer's side, so that none is hidden behind the thing. An axis seen end-on fades.
 */
export class MoveHandles {
  readonly scene = new Scene()
  private readonly whole = new Group()
  private readonly sticks: Mesh<CylinderGeometry, MeshBasicMaterial>[] = []
  private readonly pegs: Sprite[] = []
  private readonly sectors: Mesh<RingGeometry, MeshBasicMaterial>[] = []
  private readonly centre: Sprite
  private readonly signs: [number, number, number] = [1, 1, 1]
  private readonly faded: [boolean, boolean, boolean] = [false, false, false]
  private readonly origin = new Vector3()
  private colors: Board['axes'] = ['#f00', '#0f0', '#00f']
  private hot: MoveConstraint | null = null
  private held = false

  constructor() {
    const overlay = { depthTest: false, depthWrite: false, transparent: true, toneMapped: false }
    for (const axis of [0, 1, 2] as const) {
      const stick = new Mesh(new CylinderGeometry(1.5, 1.5, 1, 8).translate(0, 0.5, 0), new MeshBasicMaterial(overlay))
      const peg = new Sprite(new SpriteMaterial(overlay))
      peg.scale.setScalar(PEG * 2)
      peg.renderOrder = 3
      const sector = new Mesh(new RingGeometry(SECTOR.from, SECTOR.to, 12, 1, 0, Math.PI / 2), new MeshBasicMaterial({ ...overlay, side: DoubleSide }))
      sector.renderOrder = 1
      stick.renderOrder = 2
      this.sticks[axis] = stick
      this.pegs[axis] = peg
      this.sectors[axis] = sector
      this.whole.add(stick, peg, sector)
    }
    this.centre = new Sprite(new SpriteMaterial(overlay))
    this.centre.scale.setScalar(CENTRE * 2)
    this.centre.renderOrder = 4
    this.whole.add(this.centre)
    this.whole.visible = false
    this.scene.add(this.whole)
  }

  setBoard(board: Board): void {
    this.colors = board.axes
    for (const axis of [0, 1, 2] as const) {
      this.pegs[axis]!.material.map = pegTexture(LETTERS[axis], board.axes[axis])
      this.sticks[axis]!.material.color = new Color(board.axes[axis])
    }
    this.centre.material.map = squareTexture(board.picked)
  }

  /** Shows the handles at a point of the world, or hides them. */
  place(origin: Vector3 | null): void {
    this.whole.visible = origin !== null
    if (origin) this.origin.copy(origin)
  }

  /** Lights up one handle; `held` while it is dragged, when the sticks no longer change sides. */
  /** @returns whether that changes anything */
  light(handle: MoveConstraint | null, held = false): boolean {
    const changed = this.held !== held || JSON.stringify(this.hot) !== JSON.stringify(handle)
    this.hot = handle
    this.held = held
    return changed
  }

  get isShown(): boolean {
    return this.whole.visible
  }

  /** Fits the handles to a view, for drawing them or for finding them there; each pane sees other sides. */
  update(view: View): void {
    if (!this.whole.visible) return
    const sight = view.sightOf(this.origin)
    const pixel = view.metresPerPixel(this.origin)
    this.whole.position.copy(this.origin)
    this.whole.scale.setScalar(pixel)
    for (const axis of [0, 1, 2] as const) {
      const along = AXES[axis]!.dot(sight)
      // The dead band keeps a stick from flickering between its sides while the view crosses the axis's plane.
      if (!this.held && Math.abs(along) > 0.06) this.signs[axis] = along > 0 ? -1 : 1
      this.faded[axis] = Math.abs(along) > 0.985
    }
    for (const axis of [0, 1, 2] as const) this.dress(axis, sight)
    this.centre.material.opacity = this.isHot({ kind: 'view' }) ? 1 : 0.85
  }

  /** The handle under a pixel, those in front first: middle, pegs, sticks, quarter-discs. */
  hit(at: ScreenPoint, view: View): MoveConstraint | null {
    if (!this.whole.visible) return null
    const origin = view.project(this.origin)
    if (!origin) return null
    this.update(view)
    if (distance(at, origin) <= CENTRE + REACH) return { kind: 'view' }
    const shown = ([0, 1, 2] as const).filter(axis => !this.faded[axis])
    const ends = new Map(shown.map(axis => [axis, view.project(this.tip(axis, STICK, view))]))
    for (const axis of shown) {
      const end = ends.get(axis)
      if (end && distance(at, end) <= PEG + REACH) return { kind: 'axis', axis }
    }
    for (const axis of shown) {
      const end = ends.get(axis)
      if (end && distanceToSegment(at, origin, end) <= REACH + 2) return { kind: 'axis', axis }
    }
    const axis = ([0, 1, 2] as const).find(index => this.isInSector(at, index, view))
    return axis === undefined ? null : { kind: 'plane', axis }
  }

  /** Where a handle can be taken hold of, for automation. */
  grip(handle: MoveConstraint, view: View): ScreenPoint | null {
    if (!this.whole.visible) return null
    this.update(view)
    if (handle.kind === 'view') return view.project(this.origin)
    if (handle.kind === 'axis') return view.project(this.tip(handle.axis, STICK, view))
    const [u, v] = others(handle.axis)
    const out = (SECTOR.from + SECTOR.to) / 2 * Math.SQRT1_2
    const point = this.tip(u, out, view).add(this.tip(v, out, view)).sub(this.origin)
    return view.project(point)
  }

  dispose(): void {
    for (const part of [...this.sticks, ...this.sectors]) {
      part.geometry.dispose()
      part.material.dispose()
    }
    for (const sprite of [...this.pegs, this.centre]) {
      sprite.material.map?.dispose()
      sprite.material.dispose()
    }
  }

  private dress(axis: AxisIndex, sight: Vector3): void {
    const direction = AXES[axis]!.clone().multiplyScalar(this.signs[axis])
    const hot = this.isHot({ kind: 'axis', axis })
    const stick = this.sticks[axis]!
    const peg = this.pegs[axis]!
    const opacity = this.faded[axis] ? 0.15 : this.hot && !hot ? 0.55 : 1
    stick.quaternion.setFromUnitVectors(new Vector3(0, 1, 0), direction)
    stick.scale.set(hot ? 1.7 : 1, STICK - PEG, hot ? 1.7 : 1)
    stick.material.opacity = opacity
    peg.position.copy(direction).multiplyScalar(STICK)
    peg.scale.setScalar(PEG * (hot ? 2.35 : 2))
    peg.material.opacity = opacity

    const sector = this.sectors[axis]!
    const [u, v] = others(axis)
    const across = (index: AxisIndex) => AXES[index]!.clone().multiplyScalar(this.signs[index])
    sector.quaternion.copy(basisRotation(across(u), across(v)))
    const edgeOn = Math.abs(AXES[axis]!.dot(sight)) < 0.08
    sector.visible = !edgeOn
    sector.material.color.set(this.colors[axis])
    sector.material.opacity = this.isHot({ kind: 'plane', axis }) ? 0.85 : 0.4
  }

  private isHot(handle: MoveConstraint): boolean {
    return this.hot !== null && JSON.stringify(this.hot) === JSON.stringify(handle)
  }

  /** The point `pixels` out along an axis's stick, in the world. */
  private tip(axis: AxisIndex, pixels: number, view: View): Vector3 {
    return AXES[axis]!.clone().multiplyScalar(this.signs[axis] * pixels * view.metresPerPixel(this.origin)).add(this.origin)
  }

  private isInSector(at: ScreenPoint, axis: AxisIndex, view: View): boolean {
    if (!this.sectors[axis]!.visible) return false
    const plane = new Plane().setFromNormalAndCoplanarPoint(AXES[axis]!, this.origin)
    const point = view.rayAt(at, new Ray()).intersectPlane(plane, new Vector3())
    if (!point) return false
    point.sub(this.origin).divideScalar(view.metresPerPixel(this.origin))
    const [u, v] = others(axis)
    const out = point.length()
    return point.getComponent(u) * this.signs[u] >= 0 && point.getComponent(v) * this.signs[v] >= 0
      && out >= SECTOR.from - REACH && out <= SECTOR.to + REACH
  }
}

function others(axis: AxisIndex): [AxisIndex, AxisIndex] {
  return axis === 0 ? [1, 2] : axis === 1 ? [2, 0] : [0, 1]
}

/** Turns the XY plane so that its quarter between +X and +Y lies between `u` and `v`. */
function basisRotation(u: Vector3, v: Vector3): Quaternion {
  // With the axes' signs the pair may be left-handed; swapped it spans the same quarter and is right-handed.
  const normal = u.clone().cross(v)
  const toNormal = new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), normal)
  const first = new Vector3(1, 0, 0).applyQuaternion(toNormal)
  const angle = Math.atan2(first.clone().cross(u).dot(normal), first.dot(u))
  return new Quaternion().setFromAxisAngle(normal, angle).multiply(toNormal)
}

function distance(a: ScreenPoint, b: ScreenPoint): number {
  return Math.hypot(a.x - b.x, a.y - b.y)
}

function distanceToSegment(at: ScreenPoint, a: ScreenPoint, b: ScreenPoint): number {
  const [dx, dy] = [b.x - a.x, b.y - a.y]
  const along = Math.min(Math.max(((at.x - a.x) * dx + (at.y - a.y) * dy) / (dx * dx + dy * dy || 1), 0), 1)
  return Math.hypot(at.x - a.x - along * dx, at.y - a.y - along * dy)
}

function pegTexture(letter: string, color: string): CanvasTexture {
  return drawn((context) => {
    context.fillStyle = color
    context.beginPath()
    context.arc(32, 32, 30, 0, 2 * Math.PI)
    context.fill()
    context.fillStyle = '#fff'
    context.font = '600 36px "Barlow Condensed", sans-serif'
    context.textAlign = 'center'
    context.textBaseline = 'middle'
    context.fillText(letter, 32, 34)
  })
}

function squareTexture(color: string): CanvasTexture {
  return drawn((context) => {
    context.fillStyle = '#fff'
    context.fillRect(12, 12, 40, 40)
    context.strokeStyle = color
    context.lineWidth = 9
    context.strokeRect(14, 14, 36, 36)
  })
}

function drawn(draw: (context: CanvasRenderingContext2D) => void): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  draw(canvas.getContext('2d')!)
  const texture = new CanvasTexture(canvas)
  texture.colorSpace = SRGBColorSpace
  return texture
}
