import type { Group, Scene, WebGLRenderer } from 'three'
import type { LevelIndex } from '~~/core/scene/level-index'
import type { ChunkSource, ChunkView } from './choose-chunks'
import { chooseAll } from './choose-chunks'
import { chunkView } from './chunk-view'
import { Pieces } from './pieces'
import type { ShownLevel } from './shown-level'
import type { Surroundings } from './surroundings'
import type { View } from './view'

/** Pixels that a mesh may lie off in a whole picture. */
export const WHOLE_ERROR = 1

/** Triangles of a level around the one that is worked on, at least. */
const LEAST_AROUND = 5000

/** Of a picture that is built up: the triangles of a piece, and of all that is in sight, what is drawn with it. */
export type Piece = { triangles: number; share: number }

/** Draws the level as views see it, into what is set to be drawn into: at once, or whole in pieces. */
export class LevelDrawing {
  /** Whether the level's shadows are other than they are drawn. */
  shadowsOld = true
  /** A level around it, of which as much is drawn as there is left to draw. */
  around: ShownLevel | null = null

  /**
   * @param inPictures what features draw with the level that may be in pictures
   * @param notInPictures what they draw that may not
   */
  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly scene: Scene,
    private readonly shown: ShownLevel,
    private readonly surroundings: Surroundings,
    private readonly inPictures: Group,
    private readonly notInPictures: Group,
    private readonly index: LevelIndex,
  ) {}

  /** Triangles of all there is. */
  get triangles(): number {
    return this.shown.allTriangles() + (this.around?.allTriangles() ?? 0)
  }

  get drawnTriangles(): number {
    return this.shown.drawnTriangles() + (this.around?.drawnTriangles() ?? 0)
  }

  /** Draws no more triangles than a number. @param shadows whether they are drawn anew if they are old */
  atOnce(view: View, triangles: number, shadows: boolean): void {
    this.prepare(view)
    this.surroundings.only('both')
    this.shown.drawWithin(view, triangles)
    this.around?.drawWithin(view, Math.max(triangles - this.shown.drawnTriangles(), LEAST_AROUND))
    // Shadows of a part of it would be wrong, and drawing them takes as long as all else.
    if (shadows && this.shown.drawnShare === 1 && this.areShadowsOld(view)) this.castShadows()
    this.render(view)
  }

  /**
   * Draws all that is in sight, with each step a piece: what is near, the sky behind it, and over that what can be
   * looked through. What was drawn is kept between them; the level must not change.
   *
   * @param most triangles of what is drawn at once, and of a piece of what is more
   * @param into is given each piece to draw, with the place to draw into set
   */
  *wholly(
    view: View,
    most: () => { atOnce: number; piece: number },
    into: (draw: () => void) => void,
  ): Generator<Piece> {
    const { shown, surroundings } = this
    const all = shown.allTriangles()
    if (all <= most().atOnce) {
      into(() => this.atOnce(view, most().atOnce, true))
      yield { triangles: all, share: 1 }
      return
    }
    shown.dress(view.look)
    const sources = shown.sources()
    const seen = chooseAll(sources, chunkView(view, shown.object.matrix), WHOLE_ERROR)
    const solid = new Pieces(sources, seen)
    const clear = new Pieces(sources, seen.filter(({ source }) => sources[source]!.isClear).toReversed())
    const shareOf = () => (solid.share + clear.share) / 2
    this.prepare(view)
    if (this.areShadowsOld(view)) yield* this.shadowsAlone(view, sources, most, into)
    for (const [pieces, pass] of [[solid, 'solid'] as const, [clear, 'clear'] as const]) {
      if (pass === 'clear') into(() => this.alone(view, () => shown.show(sources, []), 'sky'))
      while (!pieces.isOver) {
        const { chosen, triangles } = pieces.take(most().piece)
        into(() => this.alone(view, () => shown.show(sources, chosen, pass), 'none'))
        yield { triangles, share: Math.min(pass === 'solid' && clear.isOver ? solid.share : shareOf(), 0.99) }
      }
    }
    into(() => {
      this.prepare(view)
      shown.show(sources, [])
      this.around?.drawWithin(view, most().piece)
      surroundings.only('grid')
      this.render(view)
      surroundings.only('both')
    })
    yield { triangles: 0, share: 1 }
  }

  /** Draws without what is just being placed, and with marks and grid or without. */
  without({ marks, grid }: { marks: boolean; grid: boolean }, draw: () => void): void {
    const { notInPictures, inPictures, surroundings } = this
    const markObject = this.shown.marks.object
    notInPictures.visible = false
    surroundings.gridHidden = !grid
    inPictures.visible = markObject.visible = marks
    try {
      draw()
    } finally {
      notInPictures.visible = inPictures.visible = markObject.visible = true
      surroundings.gridHidden = false
    }
  }

  /** Casts the shadows of all that stands where there are any, piece by piece. */
  private *shadowsAlone(
    view: View,
    sources: readonly ChunkSource[],
    most: () => { piece: number },
    into: (draw: () => void) => void,
  ): Generator<Piece> {
    const { shown, renderer } = this
    const casting = new Pieces(sources, chooseAll(sources, this.shadowView(), 1))
    // Once at least: where nothing stands any more there is no shadow either.
    for (let isFirst = true; isFirst || !casting.isOver; isFirst = false) {
      const { chosen, triangles } = casting.take(most().piece)
      into(() => {
        // Into the shadow maps alone: nothing of the picture is drawn yet.
        const target = renderer.getRenderTarget()!
        target.scissor.set(0, 0, 0, 0)
        renderer.setRenderTarget(target)
        const draw = () => this.alone(view, () => shown.show(sources, chosen), 'none')
        renderer.shadowMap.needsUpdate = true
        if (isFirst) draw()
        else withoutClearing(renderer, draw)
      })
      yield { triangles, share: 0 }
    }
    this.shadowsOld = false
  }

  private castShadows(): void {
    this.shadowsOld = false
    this.renderer.shadowMap.needsUpdate = true
  }

  /** @param view where they are wanted in a level that is too large for all of them */
  private areShadowsOld(view: View): boolean {
    if (this.surroundings.placeSun(this.shown.lights.sun())) this.shadowsOld = true
    if (this.surroundings.coverWithShadow(this.index.bounds(), view.target)) this.shadowsOld = true
    return this.shadowsOld
  }

  /** As the sun's shadow map sees chunks. */
  private shadowView(): ChunkView {
    const { middle, reach, texel } = this.surroundings.shadowed
    return {
      isSeen: box => box.distanceToPoint(middle) <= reach * Math.SQRT2,
      distanceTo: () => 1,
      pixelsAt: () => 1 / texel,
    }
  }

  /** Draws what is shown of the level's shapes, and nothing else but what is named. */
  private alone(view: View, show: () => void, surroundings: 'none' | 'sky'): void {
    const besides = [this.shown.marks.object, this.inPictures, this.notInPictures]
    const were = besides.map(({ visible }) => visible)
    this.prepare(view)
    show()
    for (const each of besides) each.visible = false
    this.surroundings.only(surroundings)
    this.render(view)
    this.surroundings.only('both')
    besides.forEach((each, i) => (each.visible = were[i]!))
  }

  /** Fits everything to a view. */
  private prepare(view: View): void {
    const { camera, rect } = view
    const { surroundings, shown } = this
    const across = view.kind === 'walkaround' ? 0 : view.metresPerPixel(view.target) * Math.max(rect.width, rect.height)
    surroundings.follow(across > 0 ? view.target : camera.position, camera.far, across, view.kind)
    const { lights } = shown
    surroundings.light(view.look === 'even', lights.sun(), lights.isLit)
    if (lights.update(view, view.look)) this.shadowsOld = true
    shown.marks.update(view)
  }

  private render(view: View): void {
    this.shown.dress(view.look)
    this.renderer.render(this.scene, view.camera)
  }
}

/** Whenever shadow maps are drawn they are cleared first; what is in them is kept meanwhile. */
function withoutClearing(renderer: WebGLRenderer, draw: () => void): void {
  const { clear } = renderer
  renderer.clear = () => {}
  try {
    draw()
  } finally {
    renderer.clear = clear
  }
}
