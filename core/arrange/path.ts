import { Matrix4, Vector3 } from 'three'
import { layoutOf, mitreAt } from './path-layout'
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
const [matrix, own, chord, from, to, direction] = [new Matrix4(), new Matrix4(), new Matrix4(), new Vector3(), new Vector3(), new Vector3()]

/** Writes the matrix of each copy along a path; see `evaluate`. */
export function evaluatePath(rule: PathRule, write: (index: number, matrix: Matrix4) => void): number {
  const { curve, runs, pieces, corners } = layoutOf(rule)
  if (rule.measure === 'ends') for (const run of runs) writePieces(rule, run, write)
  else if (rule.measure === 'points') curve.wayOfPoints().forEach((_, point) => write(point, atPoint(rule, point)))
  else {
    ownOf(rule, rule.offset)
    runs[0]!.ways.forEach((way, i) => write(i, frameAlong(rule, curve.directionAt(way, direction), matrix).setPosition(curve.at(way, from)).multiply(own)))
  }
  corners.forEach((point, i) => write(pieces + i, atPoint(rule, point)))
  return pieces + corners.length
}

function writePieces(rule: PathRule, { ways, stretch, first }: { ways: Float64Array, stretch: number, first: number }, write: (index: number, matrix: Matrix4) => void): void {
  const { curve } = layoutOf(rule)
  ownOf(rule, rule.offset)
  // A straight piece stands halfway between its ends, from where its own middle is.
  chord.makeTranslation(-(rule.begins + rule.spacing / 2), 0, 0)
  for (let i = 0; i + 1 < ways.length; i++) {
    if (rule.bent) {
      const way = (ways[i]! + ways[i + 1]!) / 2
      frameAlong(rule, curve.directionAt(way, direction), matrix).setPosition(curve.at(way, from)).multiply(own)
    }
    else {
      curve.at(ways[i]!, from)
      direction.subVectors(curve.at(ways[i + 1]!, to), from).normalize()
      frameAlong(rule, direction, matrix).setPosition(from.lerp(to, 0.5)).multiply(own).scale(to.set(stretch, 1, 1)).multiply(chord)
    }
    write(first + i, matrix)
  }
}

/** At a point of the path, turned half-way round where it is a corner. */
function atPoint(rule: PathRule, point: number): Matrix4 {
  const { curve } = layoutOf(rule)
  const mitre = mitreAt(rule, curve, point)
  ownOf(rule, rule.offset * mitre.wide)
  return frameAlong(rule, mitre.direction, matrix).setPosition(curve.at(curve.wayOfPoints()[point]!, from)).multiply(own)
}

function ownOf({ turn }: PathRule, offset: number): void {
  own.makeRotationY(turn * Math.PI / 180).setPosition(0, 0, offset)
}
