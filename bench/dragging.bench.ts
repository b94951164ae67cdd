import type { Matrix4 } from 'three'
import { Group, Mesh, MeshBasicMaterial, PerspectiveCamera, Quaternion, Raycaster, Vector3 } from 'three'
import { it } from 'vitest'
import { MoveDrag } from '../core/edit/handles/move'
import { pivotOf } from '../core/edit/handles/pivot'
import { keysOf, RULES } from '../core/arrange/rules'
import type { GridRule } from '../core/arrange/rules/grid'
import { createPlacement } from '../core/level/create'
import { Solid } from '../core/mesh/solid'
import { copyId } from '../core/scene/copy-id'
import { LevelIndex } from '../core/scene/level-index'
import { bareView } from '../core/scene/level-view'
import { previewArranged, previewMatrices } from '../core/scene/preview'
import { lanternQuayKit } from '../demo/kit'
import { Drawables } from '../app/stage/drawables'
import { LampGrid } from '../app/stage/lamp-grid'
import { ShownLevel } from '../app/stage/shown-level'
import type { Aim } from '../core/edit/snap/aim'
import { WORLD_GRID } from '../core/edit/snap/grid'
import { setDown } from '../core/edit/snap/set-down'
import type { MoveSnaps } from '../core/edit/snap/snap-move'
import { MoveSnapper } from '../core/edit/snap/snap-move'
import { SNAP_POINT_KINDS } from '../core/edit/snap/vertex'
import type { MadeUpLevel } from './made-up-level'
import { madeUpLevel, median, numbers } from './made-up-level'
import { reportCompared, reportGrowth } from './report'

// Script time of one pointer move of a drag with all snaps on, at three sizes of level, and how it grows with the size.
const SIZES = [1_000, 10_000, 100_000]
const [WIDTH, HEIGHT] = [1200, 800]

function aimAt(camera: PerspectiveCamera, projection: Matrix4, x: number, y: number): Aim {
  const ndc = (px: number, py: number) => [(px / WIDTH) * 2 - 1, 1 - (py / HEIGHT) * 2] as const
  const [nx, ny] = ndc(x, y)
  const direction = new Vector3(nx, ny, 0.5).unproject(camera).sub(camera.position).normalize()
  return {
    at: { x, y },
    projection,
    ray: Object.assign(new Raycaster(camera.position.clone(), direction).ray),
    around: pixels => {
      const [[x0, y0], [x1, y1]] = [ndc(x - pixels, y + pixels), ndc(x + pixels, y - pixels)]
      return { x0, y0, x1, y1 }
    },
    project: point => {
      const seen = point.clone().applyMatrix4(camera.matrixWorldInverse)
      if (seen.z > -camera.near) return null
      seen.applyMatrix4(camera.projectionMatrix)
      return { x: ((seen.x + 1) / 2) * WIDTH, y: ((1 - seen.y) / 2) * HEIGHT }
    },
    sightTo: point => new Raycaster(camera.position.clone(), point.clone().sub(camera.position).normalize()).ray,
    metresPerPixel: point =>
      (2 * -point.clone().applyMatrix4(camera.matrixWorldInverse).z * Math.tan(Math.PI / 6)) / HEIGHT,
  }
}

/** Those nearest to a place, so that the same is dragged whatever the size of the level. */
function nearest({ level, ids }: MadeUpLevel, count: number): string[] {
  const distance = new Map(
    ids.map(id => [id, level.need(id).kind === 'group' ? Infinity : pivotOf(level, id).length()]),
  )
  return [...ids].sort((a, b) => distance.get(a)! - distance.get(b)!).slice(0, count)
}

const all: MoveSnaps = {
  grid: { size: 0.25, lattice: true, frame: WORLD_GRID },
  abut: true,
  vertex: new Set(SNAP_POINT_KINDS),
  hug: { onto: 'everything', rest: 'lowest', leaning: true, offset: 0 },
}
const variants: Record<string, MoveSnaps> = {
  'all snaps': all,
  'abut and grid alone': { ...all, vertex: null, hug: null },
  'hug and grid alone': { ...all, vertex: null, abut: false },
}

function onePointerMove(made: MadeUpLevel, count: number, snaps: MoveSnaps): number {
  const { level, index, camera, projection } = made
  const ids = nearest(made, count)
  const last = ids[0]!
  const origin = pivotOf(level, last)
  const snapper = new MoveSnapper(level, index, ids, last, origin, () => true)
  const view = {
    right: new Vector3(1, 0, 0),
    up: new Vector3(0, 0.9, -0.4).normalize(),
    forward: origin.clone().sub(camera.position).normalize(),
  }
  const axes = new Quaternion()
  const drag = new MoveDrag(aimAt(camera, projection, WIDTH / 2, HEIGHT / 2).ray, origin, { kind: 'view' }, axes, view)
  const next = numbers(5)
  return median(300, () => {
    const aim = aimAt(camera, projection, WIDTH * (0.3 + 0.4 * next()), HEIGHT * (0.35 + 0.4 * next()))
    const { operations } = snapper.snap(drag.update(aim.ray), { kind: 'view' }, axes, snaps, aim)
    previewMatrices(level, operations)
  })
}

it('one pointer move of a drag', () => {
  const levels = SIZES.map(madeUpLevel)
  reportGrowth({
    topic: 'Picking and moving',
    title: 'One pointer move of a drag',
    about:
      'Script time from the pointer to what is shown, the median of 300 moves over a level that is as full everywhere whatever its size.',
    unit: 'ms',
    of: 'placements',
    sizes: SIZES,
    rows: [1, 500].flatMap(count =>
      Object.entries(variants).map(([name, snaps]) => ({
        what: `${count} picked, ${name}`,
        values: levels.map(level => onePointerMove(level, count, snaps)),
      })),
    ),
  })
})

it('one pointer move with 100 copies picked of 10,000', () => {
  const [grid, source] = ['00000000-0000-7000-8000-000000000001', '00000000-0000-7000-8000-000000000002']
  const rule: GridRule = { ...RULES.grid.first, counts: [100, 1, 100] }
  const part = lanternQuayKit().find(({ name }) => name === 'Crate')!
  const solid = new Solid(part.mesh)
  const level = bareView([
    createPlacement({ id: grid, name: 'Grid', kind: 'arrangement', own: { rule } }),
    createPlacement({ id: source, name: 'Crate', kind: 'part', partId: part.id, parentId: grid }),
  ])
  const index = new LevelIndex(level, () => solid)
  const shown = new ShownLevel(
    level,
    new Drawables(
      () => solid,
      () => [],
      () => Promise.reject(new Error('no pictures')),
      () => {},
    ),
    new LampGrid(),
  )
  const keys = keysOf(rule)
  const picked = Array.from({ length: 100 }, (_, i) => copyId(grid, keys.keyAt(i)))
  const origin = pivotOf(level, picked[0]!)
  const snapper = new MoveSnapper(level, index, picked, picked[0]!, origin, () => true)
  const [camera, axes] = [new PerspectiveCamera(60, 1.5, 0.05, 60), new Quaternion()]
  camera.position.set(0, 6, 12)
  camera.lookAt(origin)
  camera.updateMatrixWorld()
  const projection = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
  const view = {
    right: new Vector3(1, 0, 0),
    up: new Vector3(0, 0.9, -0.4).normalize(),
    forward: origin.clone().sub(camera.position).normalize(),
  }
  const drag = new MoveDrag(
    aimAt(camera, projection, WIDTH / 2, HEIGHT / 2).ray,
    origin,
    { kind: 'plane', axis: 1 },
    axes,
    view,
  )
  const next = numbers(5)
  const spent = { snap: 0, shown: 0 }
  const time = median(40, () => {
    const aim = aimAt(camera, projection, WIDTH * (0.3 + 0.4 * next()), HEIGHT * (0.5 + 0.3 * next()))
    const start = performance.now()
    const { operations } = snapper.snap(drag.update(aim.ray), { kind: 'plane', axis: 1 }, axes, all, aim)
    spent.snap += performance.now() - start
    shown.preview({
      matrices: previewMatrices(level, operations),
      fresh: new Map(),
      arranged: previewArranged(level, operations),
      dealt: new Map(),
      own: new Map(),
      written: new Set(operations.map(({ id }) => id)),
    })
    spent.shown += performance.now() - start
  })
  reportCompared({
    topic: 'Picking and moving',
    title: 'One pointer move with 100 copies picked of 10,000',
    about: `All snaps on. Of it ${((spent.snap / spent.shown) * 100).toFixed(0)} % are for snapping.`,
    unit: 'ms',
    rows: [{ what: 'a move, median', value: time }],
  })
})

it("set down 10,000 things, against three's Raycaster over the same meshes", () => {
  const count = 10_000
  const { level, index, ids } = madeUpLevel(count)
  const things = ids.filter(id => level.need(id).kind === 'part')
  const lifted = things.filter((_, i) => i % 2 === 0)
  // Half of them hang half a metre over the other half and the gaps between.
  const rule = { rest: 'lowest' as const, leaning: false, offset: 0 }
  setDown(level, index, new Set(lifted.slice(0, 500)), rule)
  const before = performance.now()
  setDown(level, index, new Set(lifted), rule)
  const ours = performance.now() - before
  // As plain three would have it: an object for each thing, a mesh in it for each of its materials.
  const material = new MeshBasicMaterial()
  const objects = things.map(id => {
    const object = new Group().add(
      ...index.shownBy(id)[0]!.solid.geometries.map(geometry => new Mesh(geometry, material)),
    )
    level.worldMatrix(id).decompose(object.position, object.quaternion, object.scale)
    object.updateMatrixWorld()
    return object
  })
  const caster = new Raycaster(new Vector3(), new Vector3(0, -1, 0), 0, 11)
  const sample = 40
  const start = performance.now()
  for (const id of lifted.slice(0, sample)) {
    const pivot = pivotOf(level, id)
    caster.ray.origin.set(pivot.x, pivot.y + 1, pivot.z)
    caster.intersectObjects(objects, true)
  }
  const theirs = (performance.now() - start) / sample
  const perThing = ours / lifted.length
  reportCompared({
    topic: 'Picking and moving',
    title: 'Setting down half of 10,000 things',
    about: `What hangs is set on what is below it. The reference asks three.js's Raycaster over the same meshes, for ${sample} of them.`,
    unit: 'ms for each',
    reference: 'Raycaster',
    doesTheSame: true,
    rows: [
      { what: 'Raycaster over all', value: theirs },
      { what: 'set down', value: perThing, against: theirs },
    ],
  })
})
