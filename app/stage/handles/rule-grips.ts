import type { Sprite } from 'three'
import { Group } from 'three'
import type { RuleGrip } from '~~/core/arrange/definition'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Handle } from '~~/core/edit/handles/handle'
import type { Board } from '../board'
import type { View } from '../view'
import { distance, redraw, ruleGripTexture, sprite } from './drawings'
import { sameHandle } from './handle-set'

const SIZE = 8
/** Of the places where a path gets a new point. */
const SMALL = 5
const REACH = 6

/** What an arrangement's rule can be taken hold of by: the ends of a line, the points of a path. */
export class RuleGrips {
  readonly object = new Group()
  private grips: readonly RuleGrip[] = []
  private readonly sprites: Sprite[] = []
  private board: Board | null = null

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
    this.draw()
  }

  update(view: View, hot: Handle | null): void {
    this.grips.forEach(({ at, between }, index) => {
      const each = this.sprites[index]!
      each.position.copy(at)
      each.scale.setScalar((between ? SMALL : SIZE) * (sameHandle(hot, { do: 'grip', index }) ? 2.8 : 2) * view.metresPerPixel(at))
    })
  }

  get isShown(): boolean {
    return this.grips.length > 0
  }

  hit(at: ScreenPoint, view: View): Handle | null {
    const found = this.grips.flatMap((grip, index) => {
      const seen = view.project(grip.at)
      const away = seen ? distance(at, seen) : Infinity
      return away <= (grip.between ? SMALL : SIZE) + REACH ? [{ index, away }] : []
    })
    const [nearest] = found.sort((a, b) => a.away - b.away)
    return nearest ? { do: 'grip', index: nearest.index } : null
  }

  grip(handle: Handle, view: View): ScreenPoint | null {
    const found = handle.do === 'grip' ? this.grips[handle.index] : undefined
    return found ? view.project(found.at) : null
  }

  dispose(): void {
    for (const { material } of this.sprites) {
      material.map?.dispose()
      material.dispose()
    }
  }

  private draw(): void {
    this.sprites.forEach((each, index) => {
      each.visible = index < this.grips.length
      const name = `${this.board?.name} ${this.grips[index]?.between ?? false}`
      if (!each.visible || !this.board || each.userData.drawn === name) return
      each.userData.drawn = name
      redraw(each, ruleGripTexture(this.board.colors.primary, '#fff', this.grips[index]!.between === true))
    })
  }
}
