import type { CanvasTexture, Vector3 } from 'three'
import { Group, Sprite, SpriteMaterial } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import type { Board } from '~/stage/board'
import { OVERLAY } from '~/stage/handles/drawings'
import type { StageLayer } from '~/stage/stage-layer'
import { PLATE, textPlate } from '~/stage/text-plate'
import type { View } from '~/stage/view'

/** A plate with a name, in the colour of a mark; with a line to where that person looks, if it says from where. */
export type OthersMark = { text: string; mark: number; at: Vector3; to?: Vector3 }

/** Pixels: of the line from an eye, and by which a plate is over what it is about. */
const [SIGHT, ABOVE] = [38, 15]
/** Nearer than so many pixels to the eye it would be in the way of what it looks at. */
const [TOO_NEAR, LINE] = [0.6, 2.5]

type Plate = { sprite: Sprite; width: number; texture: CanvasTexture; key: string }

/** Where others look from, what they move and where they call to: plates with their names. None catches a click. */
export class OthersMarks implements StageLayer {
  readonly inLevel = null
  readonly over = new Group()
  readonly inPictures = false
  private marks: readonly OthersMark[] = []
  private plates: Plate[] = []
  private board: Board | null = null
  private readonly lines = new Map<number, LineSegments2>()

  get isShown(): boolean {
    return this.marks.length > 0
  }

  setBoard(board: Board): void {
    this.board = board
    this.dispose()
    this.set(this.marks)
  }

  set(marks: readonly OthersMark[]): void {
    const { board } = this
    this.marks = marks
    if (!board) return
    marks.forEach(({ text, mark, at }, i) => {
      const key = `${mark} ${text}`
      if (this.plates[i]?.key !== key) {
        if (this.plates[i]) this.drop(this.plates[i])
        const color = board.people[mark]!
        const { texture, width } = textPlate(
          text,
          { plate: color, text: board.colors['on-person'], edge: board.colors['on-person'] },
          'names',
        )
        const sprite = new Sprite(new SpriteMaterial({ ...OVERLAY, map: texture }))
        sprite.renderOrder = 9
        this.over.add(sprite)
        this.plates[i] = { sprite, width, texture, key }
      }
      this.plates[i]!.sprite.position.copy(at)
    })
    for (const plate of this.plates.splice(marks.length)) this.drop(plate)
  }

  update(view: View): void {
    const sights = new Map<number, number[]>()
    this.plates.forEach(({ sprite, width }, i) => {
      const { at, to, mark } = this.marks[i]!
      const pixel = view.metresPerPixel(at)
      sprite.visible = at.distanceTo(view.eye) > TOO_NEAR
      sprite.scale.set(width * pixel, PLATE * pixel, 1)
      sprite.position.copy(at).addScaledVector(view.directions().up, ABOVE * pixel)
      if (!to || !sprite.visible || !this.board) return
      const end = to
        .clone()
        .sub(at)
        .setLength(SIGHT * pixel)
        .add(at)
      sights.set(mark, [...(sights.get(mark) ?? []), ...at.toArray(), ...end.toArray()])
    })
    for (const [mark, line] of this.lines) line.visible = sights.has(mark)
    for (const [mark, points] of sights) {
      const line = this.lineOf(mark)
      line.visible = true
      line.material.resolution.set(view.rect.width, view.rect.height)
      line.geometry.dispose()
      line.geometry = new LineSegmentsGeometry().setPositions(points)
    }
  }

  dispose(): void {
    for (const plate of this.plates.splice(0)) this.drop(plate)
    for (const line of this.lines.values()) {
      line.removeFromParent()
      line.geometry.dispose()
      line.material.dispose()
    }
    this.lines.clear()
  }

  private lineOf(mark: number): LineSegments2 {
    let line = this.lines.get(mark)
    if (!line) {
      line = new LineSegments2(
        new LineSegmentsGeometry(),
        new LineMaterial({
          color: this.board!.people[mark],
          linewidth: LINE,
          depthTest: false,
          transparent: true,
          toneMapped: false,
        }),
      )
      line.frustumCulled = false
      line.renderOrder = 8
      this.over.add(line)
      this.lines.set(mark, line)
    }
    return line
  }

  private drop({ sprite, texture }: Plate): void {
    sprite.removeFromParent()
    sprite.material.dispose()
    texture.dispose()
  }
}
