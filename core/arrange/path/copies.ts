import { Matrix4, Vector3 } from 'three'
import type { PathRun } from './layout'
import { directionOnRun, layoutOfPath, mitreAt, placeOnRun } from './layout'
import type { PathRule } from './rule'

/**
 * The axes of the path at a way along it: X forwards, Y up, Z to the right.
 *
 * @param forwards the direction of travel, of unit length
 */
export function frameAlong({ stand }: Pick<PathRule, 'stand'>, forwards: Vector3, target: Matrix4): Matrix4 {
  if (stand === 'kept') return target.identity()
  x.copy(forwards)
  if (stand !== 'banked') x.y = 0
  if (x.lengthSq() < 1e-12) x.set(1, 0, 0)
  x.normalize()
  z.crossVectors(x, UP)
  if (z.lengthSq() < 1e-12) z.set(0, 0, 1)
  z.normalize()
  return target.makeBasis(x, y.crossVectors(z, x), z)
}

const UP = new Vector3(0, 1, 0)
const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
const [matrix, own, chord, from, to, direction] = [
  new Matrix4(),
  new Matrix4(),
  new Matrix4(),
  new Vector3(),
  new Vector3(),
  new Vector3(),
]

/** Writes the matrix of each copy along a path. The matrix handed over is used again for the next copy. */
export function writeCopies(rule: PathRule, write: (index: number, matrix: Matrix4) => void): void {
  const { curve, runs, pieces, corners } = layoutOfPath(rule)
  if (rule.measure === 'ends') for (const run of runs) writePieces(rule, run, write)
  else if (rule.measure === 'points') curve.wayOfPoints().forEach((_, point) => write(point, atPoint(rule, point)))
  else {
    ownOf(rule, rule.offset)
    const { ways } = runs[0]!
    const isPlain = rule.turn === 0 && rule.offset === 0
    for (let i = 0; i < ways.length; i++) {
      curve.frameAt(ways[i]!, from, direction)
      frameAlong(rule, direction, matrix).setPosition(from)
      write(i, isPlain ? matrix : matrix.multiply(own))
    }
  }
  corners.forEach((point, i) => write(pieces + i, atPoint(rule, point)))
}

function writePieces(rule: PathRule, run: PathRun, write: (index: number, matrix: Matrix4) => void): void {
  const layout = layoutOfPath(rule)
  const { ways, stretch, first } = run
  ownOf(rule, rule.offset)
  // A straight piece stands halfway between its ends, from where its own middle is.
  chord.makeTranslation(-(rule.begins + rule.spacing / 2), 0, 0)
  for (let i = 0; i + 1 < ways.length; i++) {
    if (rule.bent) {
      const way = (ways[i]! + ways[i + 1]!) / 2
      frameAlong(rule, directionOnRun(layout, run, way, direction), matrix)
        .setPosition(placeOnRun(layout, run, way, from))
        .multiply(own)
    } else {
      placeOnRun(layout, run, ways[i]!, from)
      direction.subVectors(placeOnRun(layout, run, ways[i + 1]!, to), from).normalize()
      frameAlong(rule, direction, matrix)
        .setPosition(from.lerp(to, 0.5))
        .multiply(own)
        .scale(to.set(stretch, 1, 1))
        .multiply(chord)
    }
    write(first + i, matrix)
  }
}

/** At a point of the path, turned half-way round where it is a corner. */
function atPoint(rule: PathRule, point: number): Matrix4 {
  const { curve } = layoutOfPath(rule)
  const mitre = mitreAt(rule, curve, point)
  ownOf(rule, rule.offset * mitre.wide)
  return frameAlong(rule, mitre.direction, matrix)
    .setPosition(curve.at(curve.wayOfPoints()[point]!, from))
    .multiply(own)
}

function ownOf({ turn }: PathRule, offset: number): void {
  own.makeRotationY((turn * Math.PI) / 180).setPosition(0, 0, offset)
}
