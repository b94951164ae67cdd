import type { Box3 } from 'three'
import { Matrix4, Ray, Vector3 } from 'three'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { anchorOn } from '~~/core/arrange/scatter/anchor'
import { frameOf } from '~~/core/arrange/scatter/facets'
import type { Area, ScatterRule, Stroke } from '~~/core/arrange/scatter/rule'
import { areaSchema } from '~~/core/arrange/scatter/rule'
import type { SurfaceAt } from '~~/core/arrange/scatter/site'
import { PLANE, PLANE_STREAM } from '~~/core/arrange/scatter/site'
import { simplified } from '~~/core/math/simplify'
import type { Vec3 } from '~~/core/math/vectors'
import { copyOf } from '~~/core/scene/copy-id'
import { tidy } from '~~/core/units/quantity'
import { AreaTool } from './area-tool'
import type { SurfaceHit } from './brush-tool'
import type { BrushDoes } from '~/editor/tools/tool-id'
import { BrushTool } from './brush-tool'
import type { PointerAt } from '~/editor/tools/gesture'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import { useRepeating } from '~/features/repeat/repeating'
import { useScattering } from './scattering'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { counted } from '~~/core/units/plural'
import { pointToMicrometre } from '~~/core/math/micrometre'

/** A stroke keeps to its line within this share of its radius. */
const FINE = 0.1

/** What is drawn on the stage for a scatter: areas, and the strokes of its brushes. */
export const useBrushing = defineStore('brushing', () => {
  const level = useLevel()
  const kit = useKit()
  const modes = useModes()
  const session = useStageSession()
  const settings = useSettings()
  const scattering = useScattering()
  const repeating = useRepeating()

  /** The source that is put down by hand; the one that comes most if null. */
  const handSource = ref<string | null>(null)
  /** What the brush that is out does; null if none is. */
  const does = computed(() => session.held('brush')?.does ?? null)

  function isSurface(rule: ScatterRule): (id: string) => boolean {
    return id => rule.on.some(on => level.view.has(on.id) && level.view.isWithin(id, on.id))
  }

  /** Draws an area on the stage. */
  function drawArea(type: Area['type'], hole: boolean, width: number): void {
    const accept =
      scattering.rule.on.length > 0 ? isSurface(scattering.rule) : (id: string) => !level.view.arrangementIds.has(id)
    modes.take(
      world =>
        new AreaTool(world, { type, hole }, accept, (points, begunOn) => {
          modes.stopMode()
          const id = scattering.currentId
          const toOwn = id === null ? new Matrix4() : level.view.worldMatrix(id).clone().invert()
          const area = {
            type,
            hole,
            width: type === 'band' ? width : 0,
            points: points
              .slice(0, 500)
              .map(point => new Vector3(...point).applyMatrix4(toOwn).toArray().map(tidy) as Vec3),
          }
          // It goes along with the surface that it was begun on.
          const surface = surfaces().find(({ owner }) => owner === begunOn)
          const parsed = areaSchema.safeParse({
            ...area,
            ...(surface && surface.shape !== PLANE
              ? { lies: anchorOn(surface, (id === null ? new Matrix4() : level.view.worldMatrix(id)).toArray()) }
              : {}),
          })
          if (parsed.success) scattering.addArea(parsed.data)
          else level.notify('This is no area', [`Its corners ${parsed.error.issues[0]!.message}. Draw it again.`])
        }),
    )
  }

  /** Takes a brush in hand, or puts it away again. */
  function brush(next: BrushDoes): void {
    if (does.value === next) return modes.stopMode()
    if (scattering.currentId === null)
      return level.notify('Keep the scatter first', ['A brush works on a scatter that is kept.'])
    modes.take(
      world =>
        new BrushTool(world, next, {
          brush: () => settings.kept.brush,
          setBrush: changed => {
            settings.kept.brush = changed
          },
          hit,
          show: (how, points, strength) => scattering.tryOut(painted(how, points, strength)),
          paint: (how, points, strength) => {
            const rule = painted(how, points, strength)
            scattering.tryOut(null)
            scattering.setRule(rule)
          },
          forget: () => scattering.tryOut(null),
          put,
          copyAt,
          take,
        }),
    )
  }

  function hit(pointer: PointerAt): SurfaceHit | null {
    const { stage } = session
    if (!stage) return null
    const { ray } = stage.viewAt(pointer).aim(pointer)
    const found = level.index.raycast(ray, isSurface(scattering.rule))
    if (found) return found
    const far = -ray.origin.y / ray.direction.y
    return scattering.rule.plane && far > 0 && Number.isFinite(far)
      ? { id: PLANE, point: ray.at(far, new Vector3()), normal: new Vector3(0, 1, 0) }
      : null
  }

  function surfaces(): SurfaceAt[] {
    const { plane } = scattering.rule
    return [
      ...scattering.siteFor().surfaces,
      ...(plane
        ? [{ stream: PLANE_STREAM, below: 0, owner: PLANE, shape: PLANE, matrix: new Matrix4().toArray() }]
        : []),
    ]
  }

  /**
   * The rule with one more stroke: on each surface that it comes near to, in that one's own axes, so that it goes where
   * that goes.
   */
  function painted(how: Stroke['does'], points: readonly Vec3[], strength: number): ScatterRule {
    const { rule } = scattering
    const { radius } = settings.kept.brush
    const line = simplified(points, radius * FINE).slice(0, 2000)
    const strokes = surfaces()
      .filter(surface => isNear(surface, line, radius))
      .map(({ stream: on, below, matrix }): Stroke => {
        const toOwn = new Matrix4().fromArray([...frameOf(new Matrix4().fromArray([...matrix])).toOwn])
        return {
          on,
          below,
          does: how,
          radius: tidy(radius),
          strength: Math.round(strength * 100) / 100,
          points: line.map(
            point =>
              new Vector3(...point)
                .applyMatrix4(toOwn)
                .toArray()
                .map(value => Math.round(value * 1000) / 1000) as Vec3,
          ),
        }
      })
    return { ...rule, paint: { ...rule.paint, strokes: [...rule.paint.strokes, ...strokes].slice(-2000) } }
  }

  /** Whether a line comes nearer to a surface than a radius. */
  function isNear({ shape, matrix }: SurfaceAt, line: readonly Vec3[], radius: number): boolean {
    if (shape === PLANE) return line.some(([, y]) => Math.abs(y) < radius)
    // The site calls shapes by what their meshes are known by.
    const box = kit.shapes
      .solidBy(shape)
      ?.bounds.clone()
      .applyMatrix4(new Matrix4().fromArray([...matrix]))
      .expandByScalar(radius)
    if (!box) return false
    const points = line.map(point => new Vector3(...point))
    return points.some((point, i) => box.containsPoint(point) || (i > 0 && passes(box, points[i - 1]!, point)))
  }

  /** One more copy by hand: of the sources that weights let come most. */
  function put({ id, copy, point, normal }: SurfaceHit): void {
    const own = repeating.own
    const surface = surfaces().find(({ owner }) => owner === (copy ?? id))
    const { mix } = scattering.rule
    if (!own || !surface || mix.length === 0) return
    const toOwn = new Matrix4().fromArray([...frameOf(new Matrix4().fromArray([...surface.matrix])).toOwn])
    const numbers = Object.keys(own.exceptions ?? {})
      .filter(key => key.startsWith('0,'))
      .map(key => Number(key.split(',')[1]))
    const number = Math.max(0, ...numbers) + 1
    const source =
      mix.find(each => each.source === handSource.value)
      ?? mix.reduce((most, each) => (each.weight > most.weight ? each : most))
    repeating.setException(`0,${number},0`, {
      added: {
        on: surface.stream,
        below: surface.below,
        at: pointToMicrometre(point.clone().applyMatrix4(toOwn)),
        up: pointToMicrometre(normal.clone().transformDirection(toOwn)),
        source: source.source,
      },
    })
  }

  function copyAt(pointer: PointerAt): string | null {
    const { stage } = session
    if (!stage) return null
    const found = level.index.raycast(stage.viewAt(pointer).aim(pointer).ray, id => id === scattering.currentId)
    return found?.copy ?? null
  }

  function take(copies: readonly string[]): void {
    if (copies.length > 0)
      level.change(
        `Take away ${counted(copies.length, 'copy', 'copies')}`,
        copies.filter(id => copyOf(id)).map(id => ({ do: 'remove' as const, id })),
      )
  }

  return { does, drawArea, brush, handSource }
})

/** Whether the stretch between two points goes through a box. */
function passes(box: Box3, from: Vector3, to: Vector3): boolean {
  const way = to.clone().sub(from)
  const hit = new Ray(from, way.clone().normalize()).intersectBox(box, new Vector3())
  return hit !== null && hit.distanceTo(from) <= way.length()
}
