import { cameraOwn, lightOwn } from '../core/level/create'
import type { Exemption, Placement } from '../core/level/schema'
import type { Vec3 } from '../core/math/vectors'
import { demoId } from './kit'

type Hands = {
  group: (name: string) => string
  put: (parentId: string, name: string, partName: string, at: Vec3, heading?: number) => string
  mark: (name: string, kind: 'camera' | 'light' | 'marker', own: Placement['own'], at: Vec3, turn: Vec3) => string
  square: string
  goods: string
}

/**
 * Six things that are wrong with Lantern Quay on purpose, for the first look at the level check; told in
 * docs/lantern-quay.md.
 */
export function putFindings({ group, put, mark, square, goods }: Hands): void {
  put(square, 'Planter that floats', 'Planter', [8.6, 0.03, -1.7])
  put(square, 'Bench put twice', 'Bench', [-6.4, 0, -0.6], 60)
  put(goods, 'Spare crate', 'Crate', [6.5, 0, -0.9], 12)
  mark('In the barrel', 'camera', cameraOwn({ fieldOfView: 50 }), [4.2, 0.45, -2.7], [0, 0, 0])
  mark(
    'Lost lamp',
    'light',
    lightOwn({ light: 'point', color: '#ffd77a', intensity: 6, range: 2 }),
    [-3, 9, 8],
    [0, 0, 0],
  )
  group('Signs, to come')
}

const exemption = (of: string, things: readonly string[], amount: number | null, reason: string): Exemption => ({
  id: demoId(`exemption/${of}/${things.join()}`),
  of,
  things: things.map(name => demoId(`placement/${name}`)),
  amount,
  reason,
})

/** What is meant so. */
export const EXEMPTIONS: Exemption[] = [
  exemption('overlapping', ['Landing', 'Planter racks'], 0.5, 'The racks are let into the landing.'),
  exemption('overlapping', ['Landing wall', 'Planter racks'], 0.1, 'The racks are let into the landing.'),
  exemption('copies-overlapping', ['Ring of stalls'], 0.5, 'The awnings lap over each other against the rain.'),
  exemption('sight-line', ['Planter racks'], null, 'Plants do not watch the band.'),
]
