import { RULES } from '../arrange/rules'
import type { FanRule } from '../arrange/rules/fan'
import { Vector3 } from 'three'

/** How a row sees over the row in front: its radius and height, and by how much, in metres. Rows are counted from 0. */
export type RowSight = { row: number; radius: number; height: number; c: number }

/**
 * How far the sight line of each row but the first passes over the eyes of the row in front: C = D·(N + R)/(D + T) - R,
 * with D from the eye in front to the focus, R that eye's height above it, N the riser and T the depth between the two
 * rows (Guide to Safety at Sports Grounds; D and R belong to the row in front, so that D + T is the row's own).
 *
 * @param eye metres above the row @param focus metres above the fan's middle
 */
export function sightLines(rule: FanRule, { eye, focus }: { eye: number; focus: number }): RowSight[] {
  const rows = rowsOf(rule)
  return rows.slice(1).map(({ radius, height }, i) => {
    const front = rows[i]!
    const [d, t, n, r] = [front.radius, radius - front.radius, height - front.height, front.height + eye - focus]
    return { row: i + 1, radius, height, c: (d * (n + r)) / (d + t) - r }
  })
}

/** Radius and height of the middle of each row. */
function rowsOf(rule: FanRule): { radius: number; height: number }[] {
  const count = RULES.fan.count(rule)
  const matrices = new Float64Array(count * 16)
  RULES.fan.write(rule, matrices)
  const keys = RULES.fan.keys(rule)
  const rows: { radius: number; height: number }[] = []
  const at = new Vector3()
  for (let i = 0; i < count; i++) {
    const [row] = keys.at(i)
    at.fromArray(matrices, i * 16 + 12)
    rows[row] ??= { radius: Math.hypot(at.x, at.z), height: at.y }
  }
  return rows
}
