import type { Matrix4, Object3D } from 'three'
import { CanvasTexture, Group, Sprite, SpriteMaterial, SRGBColorSpace, Vector3 } from 'three'
import type { ScreenPoint } from '~~/core/math/screen'
import type { MarkKind } from '~~/core/level/kinds'
import { MARK_KINDS } from '~~/core/level/kinds'
import type { Placement } from '~~/core/level/schema'
import type { LevelView } from '~~/core/scene/level-view'
import type { Board } from './board'
import { MarkShapes } from './mark-shapes'
import type { View } from './view'

/** What of the marks is shown, and how large, in pixels. */
export type MarkSettings = Record<MarkKind, boolean> & { size: number }

/**
 * Stands for what has no shape of its own: cameras, lights, markers. Drawn over everything, always the same size on the
 * screen.
 */
export class Marks {
  readonly object: Object3D = new Group()
  private readonly sprites = new Map<string, Sprite>()
  private readonly materials: Record<MarkKind, SpriteMaterial>
  private readonly pickedMaterials: Record<MarkKind, SpriteMaterial>
  private settings: MarkSettings = { ...everyKind(() => true), size: 24 }
  private picked: ReadonlySet<string> = new Set()
  readonly shapes: MarkShapes

  constructor(level: LevelView) {
    this.shapes = new MarkShapes(level)
    this.object.add(this.shapes.object)
    const make = () => new SpriteMaterial({ depthTest: false, depthWrite: false, transparent: true, toneMapped: false })
    this.materials = everyKind(make)
    this.pickedMaterials = everyKind(make)
  }

  setBoard(board: Board): void {
    this.shapes.setBoard(board)
    for (const kind of MARK_KINDS) {
      this.materials[kind].map?.dispose()
      this.pickedMaterials[kind].map?.dispose()
      this.materials[kind].map = texture(kind, board.colors['on-surface'], board.colors['sky-horizon'])
      this.pickedMaterials[kind].map = texture(kind, board.colors.picked, board.colors['sky-horizon'])
    }
  }

  setSettings(settings: MarkSettings): void {
    this.settings = settings
    this.shapes.setSettings(settings)
  }

  /** @returns whether any mark looks otherwise now */
  setPicked(ids: ReadonlySet<string>): boolean {
    this.picked = ids
    let isOther = this.shapes.setPicked(ids)
    for (const { sprite, kind, means } of this.all()) {
      const material = this.materialOf(means, kind)
      isOther ||= sprite.material !== material
      sprite.material = material
    }
    return isOther
  }

  /**
   * @param id the mark's own
   * @param means what a click on it picks
   */
  set(id: string, kind: MarkKind, own: Placement['own'], matrix: Matrix4, means = id): void {
    this.shapes.set(id, own, matrix, means)
    let sprite = this.sprites.get(id)
    if (!sprite) {
      sprite = new Sprite(this.materialOf(means, kind))
      sprite.renderOrder = 6
      this.sprites.set(id, sprite)
      this.object.add(sprite)
    }
    sprite.userData = { kind, means }
    sprite.position.setFromMatrixPosition(matrix)
  }

  remove(id: string): void {
    this.shapes.remove(id)
    const sprite = this.sprites.get(id)
    if (!sprite) return
    this.object.remove(sprite)
    this.sprites.delete(id)
  }

  /** The shown marks: what a click on each picks, and where it is in the world. */
  shown(): { id: string; position: Vector3 }[] {
    return [...this.all()]
      .filter(({ kind }) => this.settings[kind])
      .map(({ sprite, means }) => ({ id: means, position: sprite.position }))
  }

  /** Fits the drawing to a view; call before each pane is drawn. */
  update(view: View): void {
    this.shapes.update(view)
    for (const { sprite, kind } of this.all()) {
      sprite.visible = this.settings[kind]
      sprite.scale.setScalar(this.sizeIn(view) * view.metresPerPixel(sprite.position))
    }
  }

  /** The shown marks under a pixel, the nearest to the eye first. */
  hits(at: ScreenPoint, view: View): { id: string; distance: number }[] {
    const found: { id: string; distance: number }[] = []
    const point = new Vector3()
    for (const { id, position } of this.shown()) {
      const seen = view.project(point.copy(position))
      if (seen && Math.max(Math.abs(seen.x - at.x), Math.abs(seen.y - at.y)) <= this.sizeIn(view) / 2)
        found.push({ id, distance: position.distanceTo(view.eye) })
    }
    return found.sort((a, b) => a.distance - b.distance)
  }

  /** Smaller in a small pane, so that they do not crowd it. */
  private sizeIn(view: View): number {
    return this.settings.size * Math.min(1, Math.max(0.6, view.rect.height / 450))
  }

  dispose(): void {
    this.shapes.dispose()
    for (const material of [...Object.values(this.materials), ...Object.values(this.pickedMaterials)]) {
      material.map?.dispose()
      material.dispose()
    }
  }

  private *all(): Generator<{ sprite: Sprite; kind: MarkKind; means: string }> {
    for (const sprite of this.sprites.values())
      yield { sprite, ...(sprite.userData as { kind: MarkKind; means: string }) }
  }

  private materialOf(id: string, kind: MarkKind): SpriteMaterial {
    return (this.picked.has(id) ? this.pickedMaterials : this.materials)[kind]
  }
}

const everyKind = <T>(make: (kind: MarkKind) => T) =>
  Object.fromEntries(MARK_KINDS.map(kind => [kind, make(kind)])) as Record<MarkKind, T>

/** What is drawn on the tag of each kind, in a square of 64: a lens, a lamp with rays, a flag. */
const DRAWINGS: Record<MarkKind, (c: CanvasRenderingContext2D) => void> = {
  camera: c => {
    c.roundRect(14, 24, 22, 18, 4)
    c.moveTo(38, 33)
    c.lineTo(50, 23)
    c.lineTo(50, 43)
    c.closePath()
    c.fill()
  },
  light: c => {
    c.arc(32, 32, 8, 0, 2 * Math.PI)
    c.fill()
    for (let ray = 0; ray < 8; ray++) {
      const [x, y] = [Math.cos((ray * Math.PI) / 4), Math.sin((ray * Math.PI) / 4)]
      c.moveTo(32 + x * 14, 32 + y * 14)
      c.lineTo(32 + x * 19, 32 + y * 19)
    }
    c.stroke()
  },
  marker: c => {
    c.moveTo(22, 50)
    c.lineTo(22, 15)
    c.lineTo(46, 23)
    c.lineTo(22, 32)
    c.stroke()
    c.fill()
  },
}

/** A rounded tag with a plain drawing. */
function texture(kind: MarkKind, ink: string, paper: string): CanvasTexture {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  const c = canvas.getContext('2d')!
  c.fillStyle = paper
  c.strokeStyle = ink
  c.lineWidth = 5
  c.lineJoin = c.lineCap = 'round'
  c.beginPath()
  c.roundRect(4, 4, 56, 56, 14)
  c.fill()
  c.stroke()
  c.fillStyle = ink
  c.beginPath()
  DRAWINGS[kind](c)
  const made = new CanvasTexture(canvas)
  made.colorSpace = SRGBColorSpace
  return made
}
