import type { Vector3 } from 'three'
import type { CanvasTexture } from 'three'
import { Group, Sprite, SpriteMaterial } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Board } from '~/stage/board'
import { OVERLAY, redraw, ruleGripTexture, sprite } from '~/stage/handles/drawings'
import type { NumberAt, StageLayer } from '~/stage/stage-layer'
import { PLATE, textPlate } from '~/stage/text-plate'
import type { View } from '~/stage/view'

type Line = readonly [Vector3, Vector3]

/**
 * A measure, or the sizes of what is picked, as it is drawn. `loud` while it is chosen or being made; `clickable`: its
 * numbers can be clicked.
 */
export type Dimension = {
  lines: readonly Line[]
  guides: readonly Line[]
  numbers: readonly {
    key: string
    at: Vector3
    text: string
    /** Its line: where that is seen short, the number is left out. */
    of?: Line
  }[]
  loud: boolean
  clickable: boolean
  /** Its ends that can be taken hold of. */
  ends?: readonly { key: string; at: Vector3 }[]
}

/** Pixels of half the bar across each end. */
const BAR = 8
/** Pixels that a line has to be long on the screen for its number to be drawn. */
const SHORT = 20
/** Numbers that are drawn at a time, and lines. */
const [MOST_NUMBERS, MOST_LINES] = [400, 4000]
/** Pixels across an end that can be taken hold of, and around its middle where a press does. */
const [GRIP, REACH] = [11, 9]

type Plate = { sprite: Sprite; width: number; key: string; clickable: boolean; of: Line | undefined }

/**
 * Draws lengths as on a plan: a line with a bar across each end, and the number on a plate that faces the viewer. Over
 * everything, in every pane.
 */
export class Dimensions implements StageLayer {
  readonly inLevel = null
  readonly over = new Group()
  readonly inPictures = false
  /** Pale, behind the others: they have to be seen on anything. */
  private readonly halo = lineOf(4.5, 6)
  private readonly quiet = lineOf(2)
  private readonly loud = lineOf(2.6)
  private readonly thin = lineOf(1.4)
  private readonly plates = new Map<string, Plate>()
  private readonly textures = new Map<string, { texture: CanvasTexture; width: number }>()
  private shown: readonly Dimension[] = []
  private readonly grips: Sprite[] = []
  private ends: readonly { key: string; at: Vector3 }[] = []
  private gripColors: [string, string] = ['', '']
  private ink: { plate: string; text: string; edge: string } = { plate: '', text: '', edge: '' }

  constructor() {
    this.halo.material.opacity = 0.75
    this.over.add(this.halo, this.quiet, this.loud, this.thin)
  }

  get isShown(): boolean {
    return this.shown.length > 0
  }

  setBoard({ colors }: Board): void {
    this.quiet.material.color.set(colors.primary)
    this.loud.material.color.set(colors.picked)
    this.thin.material.color.set(colors.primary)
    this.halo.material.color.set(colors.surface)
    this.ink = { plate: colors.surface, text: colors['on-surface'], edge: colors.primary }
    for (const { texture } of this.textures.values()) texture.dispose()
    this.textures.clear()
    for (const grip of this.grips) redraw(grip, ruleGripTexture(colors.primary, colors.surface, false))
    this.gripColors = [colors.primary, colors.surface]
    this.set(this.shown)
  }

  set(shown: readonly Dimension[]): void {
    this.shown = shown
    this.ends = shown.flatMap(({ ends = [] }) => ends).slice(0, MOST_NUMBERS)
    while (this.grips.length < this.ends.length) {
      const grip = sprite(ruleGripTexture(...this.gripColors, false), 1, 8)
      this.grips.push(grip)
      this.over.add(grip)
    }
    const wanted = shown
      .flatMap(({ numbers, clickable }) => numbers.map(number => ({ ...number, clickable })))
      .slice(0, MOST_NUMBERS)
    const keys = new Set(wanted.map(({ key }) => key))
    for (const [key, { sprite }] of this.plates) {
      if (keys.has(key)) continue
      this.over.remove(sprite)
      sprite.material.dispose()
      this.plates.delete(key)
    }
    for (const { key, at, text, clickable, of } of wanted) {
      let plate = this.plates.get(key)
      if (!plate) {
        const sprite = new Sprite(new SpriteMaterial({ ...OVERLAY }))
        sprite.renderOrder = 8
        this.over.add(sprite)
        this.plates.set(key, (plate = { sprite, width: 0, key, clickable, of: undefined }))
      }
      const { texture, width } = this.textureOf(text)
      plate.width = width
      plate.of = of
      plate.sprite.material.map = texture
      plate.sprite.position.copy(at)
    }
    // Of texts that nobody shows any more a few are left, for numbers that come and go.
    if (this.textures.size > 2 * MOST_NUMBERS) {
      const used = new Set(wanted.map(({ text }) => text))
      for (const [text, { texture }] of this.textures) {
        if (used.has(text)) continue
        texture.dispose()
        this.textures.delete(text)
      }
    }
  }

  /** Fits bars and plates to a view; call before each pane is drawn. */
  update(view: View): void {
    for (const { sprite, width, of } of this.plates.values()) {
      sprite.visible = isLongEnough(of, view)
      const pixel = view.metresPerPixel(sprite.position)
      sprite.scale.set(width * pixel, PLATE * pixel, 1)
    }
    this.grips.forEach((grip, i) => {
      const end = this.ends[i]
      grip.visible = end !== undefined
      if (end) grip.scale.setScalar(GRIP * view.metresPerPixel(grip.position.copy(end.at)))
    })
    const lines = (of: readonly Dimension[]) =>
      of.flatMap(({ lines: each }) => each.flatMap(line => withBars(line, view))).slice(0, MOST_LINES)
    const [quiet, loud] = [false, true].map(isLoud => lines(this.shown.filter(each => each.loud === isLoud))) as [
      Line[],
      Line[],
    ]
    const thin = this.shown.flatMap(({ guides }) => guides).slice(0, MOST_LINES)
    this.draw(this.halo, view, [...quiet, ...loud, ...thin])
    this.draw(this.quiet, view, quiet)
    this.draw(this.loud, view, loud)
    this.draw(this.thin, view, thin)
  }

  /** The number under a pixel, and where its middle is; null if there is none. */
  numberAt(at: ScreenPoint, view: View): NumberAt | null {
    let best: { key: string; at: ScreenPoint; depth: number } | null = null
    for (const { sprite, width, key, clickable, of } of this.plates.values()) {
      const seen = clickable && isLongEnough(of, view) ? view.project(sprite.position) : null
      if (!seen || Math.abs(seen.x - at.x) > width / 2 || Math.abs(seen.y - at.y) > PLATE / 2) continue
      const depth = sprite.position.distanceTo(view.eye)
      if (!best || depth < best.depth) best = { key, at: seen, depth }
    }
    return best
  }

  /** The end of a measure under a pixel that can be taken hold of, the nearest one; null if there is none. */
  graspAt(at: ScreenPoint, view: View): string | null {
    let best: { key: string; away: number } | null = null
    for (const { key, at: place } of this.ends) {
      const seen = view.project(place)
      const away = seen ? Math.hypot(seen.x - at.x, seen.y - at.y) : Infinity
      if (away <= REACH && away < (best?.away ?? Infinity)) best = { key, away }
    }
    return best?.key ?? null
  }

  dispose(): void {
    for (const { material } of this.grips) {
      material.map?.dispose()
      material.dispose()
    }
    for (const { texture } of this.textures.values()) texture.dispose()
    for (const { sprite } of this.plates.values()) sprite.material.dispose()
    for (const line of [this.halo, this.quiet, this.loud, this.thin]) {
      line.geometry.dispose()
      line.material.dispose()
    }
  }

  private draw(target: LineSegments2, view: View, lines: readonly Line[]): void {
    target.visible = lines.length > 0
    if (!target.visible) return
    target.material.resolution.set(view.rect.width, view.rect.height)
    target.geometry.dispose()
    target.geometry = new LineSegmentsGeometry().setPositions(
      lines.flatMap(([from, to]) => [from.x, from.y, from.z, to.x, to.y, to.z]),
    )
  }

  private textureOf(text: string): { texture: CanvasTexture; width: number } {
    let made = this.textures.get(text)
    if (!made) this.textures.set(text, (made = textPlate(text, this.ink)))
    return made
  }
}

/** Whether a line is seen long enough for its number; one that goes behind the eye is. */
function isLongEnough(line: Line | undefined, view: View): boolean {
  const [a, b] = line?.map(end => view.project(end)) ?? []
  return !a || !b || Math.hypot(a.x - b.x, a.y - b.y) >= SHORT
}

/** A line and a bar across each of its ends, as wide on the screen wherever it is. */
function withBars([from, to]: Line, view: View): Line[] {
  const way = to.clone().sub(from)
  const sight = from.clone().sub(view.eye)
  const across = way.clone().cross(sight)
  if (across.lengthSq() < 1e-18) return [[from, to]]
  across.normalize()
  const bar = (at: Vector3): Line => {
    const half = across.clone().multiplyScalar(BAR * view.metresPerPixel(at))
    return [at.clone().sub(half), at.clone().add(half)]
  }
  return [[from, to], bar(from), bar(to)]
}

function lineOf(width: number, order = 7): LineSegments2 {
  const line = new LineSegments2(
    new LineSegmentsGeometry(),
    new LineMaterial({ linewidth: width, depthTest: false, transparent: true, toneMapped: false }),
  )
  line.frustumCulled = false
  line.renderOrder = order
  return line
}
