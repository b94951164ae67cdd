import type { Sprite, Vector3 } from 'three'
import { BufferGeometry, Group, LineBasicMaterial, LineSegments } from 'three'
import type { RuleGrip } from '~~/core/arrange/definition'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Handle } from '~~/core/edit/handles/handle'
import type { Board } from '../board'
import type { SeenBy } from './enlarged'
import { distance, OVERLAY, redraw, ruleGripTexture, sprite } from './drawings'
import { sameHandle } from './handle-set'

const SIZE = 8
/** Of the places where a path gets a new point. */
const SMALL = 5
const REACH = 6
/** How far aside of its place a grip is drawn where that is taken, and in how many directions that is tried. */
const [ASIDE, WAYS] = [[24, 40, 58], 8] as const

/** Whether a place on the screen belongs to something else that is taken hold of, or lies under a bar. */
export type IsTaken = (at: ScreenPoint) => boolean

/** What an arrangement's rule can be taken hold of by: the ends of a line, the points of a path. */
export class RuleGrips {
  readonly object = new Group()
  private grips: readonly RuleGrip[] = []
  private readonly sprites: Sprite[] = []
  private board: Board | null = null
  /** From the places of those drawn aside to where they are drawn. */
  private readonly leads = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ ...OVERLAY }))

  constructor() {
    this.leads.frustumCulled = false
    this.leads.renderOrder = 6
    this.object.add(this.leads)
  }

  /** @param grips in the world */
  set(grips: readonly RuleGrip[]): void {
    this.grips = grips
    while (this.sprites.length < grips.length) {
      const made = sprite(null, 1, 7)
      this.sprites.push(made)
      this.object.add(made)
    }
    this.draw()
  }

  setBoard(board: Board): void {
    this.board = board
    this.leads.material.color.set(board.colors.primary)
    this.draw()
  }

  update(view: SeenBy, hot: Handle | null, isTaken: IsTaken): void {
    const { right, up } = view.directions()
    const leads: Vector3[] = []
    this.grips.forEach(({ at, between }, index) => {
      const each = this.sprites[index]!
      const pixel = view.metresPerPixel(at)
      const { x, y } = this.asideOf(index, view, isTaken)
      each.position
        .copy(at)
        .addScaledVector(right, x * pixel)
        .addScaledVector(up, -y * pixel)
      each.scale.setScalar((between ? SMALL : SIZE) * (sameHandle(hot, { do: 'grip', index }) ? 2.8 : 2) * pixel)
      if (x !== 0 || y !== 0) leads.push(at, each.position.clone())
    })
    this.leads.visible = leads.length > 0
    if (leads.length === 0) return
    this.leads.geometry.dispose()
    this.leads.geometry = new BufferGeometry().setFromPoints(leads)
  }

  /** How far from its place a grip is drawn, in pixels: as near as nothing else is in the way. */
  asideOf(index: number, view: SeenBy, isTaken: IsTaken): ScreenPoint {
    const place = view.project(this.grips[index]!.at)
    if (!place || !isTaken(place)) return { x: 0, y: 0 }
    for (const away of ASIDE) {
      for (let way = 0; way < WAYS; way++) {
        // Downwards first: handles stand up.
        const angle = Math.PI / 2 + ((way % 2 ? 1 : -1) * Math.ceil(way / 2) * 2 * Math.PI) / WAYS
        const aside = { x: Math.cos(angle) * away, y: Math.sin(angle) * away }
        if (!isTaken({ x: place.x + aside.x, y: place.y + aside.y })) return aside
      }
    }
    return { x: 0, y: 0 }
  }

  get isShown(): boolean {
    return this.grips.length > 0
  }

  hit(at: ScreenPoint, view: SeenBy, isTaken: IsTaken): Handle | null {
    const found = this.grips.flatMap((grip, index) => {
      const seen = this.seen(index, view, isTaken)
      const away = seen ? distance(at, seen) : Infinity
      return away <= (grip.between ? SMALL : SIZE) + REACH ? [{ index, away }] : []
    })
    const [nearest] = found.sort((a, b) => a.away - b.away)
    return nearest ? { do: 'grip', index: nearest.index } : null
  }

  grip(handle: Handle, view: SeenBy, isTaken: IsTaken): ScreenPoint | null {
    return handle.do === 'grip' && this.grips[handle.index] ? this.seen(handle.index, view, isTaken) : null
  }

  /** Where one is drawn on the screen. */
  private seen(index: number, view: SeenBy, isTaken: IsTaken): ScreenPoint | null {
    const place = view.project(this.grips[index]!.at)
    if (!place) return null
    const aside = this.asideOf(index, view, isTaken)
    return { x: place.x + aside.x, y: place.y + aside.y }
  }

  dispose(): void {
    this.leads.geometry.dispose()
    this.leads.material.dispose()
    for (const { material } of this.sprites) {
      material.map?.dispose()
      material.dispose()
    }
  }

  private draw(): void {
    this.sprites.forEach((each, index) => {
      each.visible = index < this.grips.length
      const name = `${this.board?.colors.primary} ${this.grips[index]?.between ?? false}`
      if (!each.visible || !this.board || each.userData.drawn === name) return
      each.userData.drawn = name
      redraw(each, ruleGripTexture(this.board.colors.primary, '#fff', this.grips[index]!.between === true))
    })
  }
}
