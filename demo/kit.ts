import { v5 } from 'uuid'
import type { Mesh } from '../core/mesh/mesh'
import { lightOwn } from '../core/level/create'
import type { Lamp, Part, Socket } from '../core/level/part'
import { candelaOfPoint, colorOfKelvin } from '../core/math/photometry'
import { fallenLeaf, fieldStone, grassTuft, meadowStar, plumBell, reed } from './parts/greenery'
import {
  awning,
  bandstand,
  barrel,
  basket,
  bench,
  crate,
  glassScreen,
  lanternPost,
  planter,
  rowingBoat,
  stallFrame,
} from './parts/market'
import {
  bridgeSpan,
  canalWall,
  canalWater,
  embankment,
  kerb,
  plankJetty,
  quayEdge,
  quaySlab,
  railing,
  stepsFlight,
} from './parts/quay'
import { palette } from './palette'

const NAMESPACE = '6f0c2a57-6c1e-5d0b-9a44-2f6f7c1b8e10'

/** An id that is the same on every machine for the same name. */
export function demoId(name: string): string {
  return v5(name, NAMESPACE)
}

export type DemoPart = Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'sockets' | 'lamps'> & { mesh: Mesh }

/** The lamp in a lantern's glass: 1,000 lm of warm light, by night alone. */
const LANTERN_LAMP: Lamp = {
  at: [0, 2.85, 0],
  rotation: [0, 0, 0, 1],
  light: lightOwn({
    light: 'point',
    color: colorOfKelvin(2400),
    temperature: 2400,
    intensity: Math.round(candelaOfPoint(1000)),
    range: 9,
    when: 'night',
  }),
}

function part(
  name: string,
  kind: Part['kind'],
  tags: string[],
  mesh: Mesh,
  sockets: Socket[] = [],
  lamps: Lamp[] = [],
): DemoPart {
  return { id: demoId(`part/${name}`), name, kind, tags, mesh, sockets, lamps }
}

/** Ends at both sides of a piece, on the ground it stands on. @param axis along which it is `length` metres long */
function ends(kind: string, axis: 'x' | 'z', length: number): Socket[] {
  return (
    [
      ['left', -1],
      ['right', 1],
    ] as const
  ).map(([name, side]) => ({
    name,
    kind,
    up: [0, 1, 0],
    at: axis === 'x' ? [(side * length) / 2, 0, 0] : [0, 0, (side * length) / 2],
    direction: axis === 'x' ? [side, 0, 0] : [0, 0, side],
  }))
}

/** The kit of Lantern Quay, built anew at each call. */
export function lanternQuayKit(): DemoPart[] {
  return [
    part('Quay slab 4 m', 'piece', ['ground', 'stone'], quaySlab()),
    part('Quay edge 4 m', 'piece', ['ground', 'stone', 'edge'], quayEdge(), ends('quay edge', 'x', 4)),
    part('Canal wall 4 m', 'piece', ['wall', 'stone'], canalWall(), ends('wall', 'x', 4)),
    part('Canal water 8 m', 'piece', ['ground', 'water'], canalWater()),
    part('Embankment', 'piece', ['ground', 'slope', 'grass'], embankment()),
    part('Bridge span', 'piece', ['ground', 'bridge', 'stone'], bridgeSpan()),
    part('Steps flight', 'piece', ['ground', 'steps', 'stone'], stepsFlight()),
    part('Plank jetty', 'piece', ['ground', 'jetty', 'wood'], plankJetty(), ends('jetty', 'z', 4)),
    part('Railing 2 m', 'piece', ['edge', 'iron'], railing(), ends('railing', 'x', 2)),
    part('Kerb 2 m', 'piece', ['edge', 'stone'], kerb(), ends('kerb', 'x', 2)),
    part('Bandstand floor', 'piece', ['ground', 'stone', 'round'], bandstand()),
    part('Stall frame', 'piece', ['stall', 'wood'], stallFrame()),
    part('Awning, red', 'piece', ['stall', 'canvas'], awning(palette.red)),
    part('Awning, ochre', 'piece', ['stall', 'canvas'], awning(palette.ochre)),
    part('Awning, green', 'piece', ['stall', 'canvas'], awning(palette.green)),
    part('Glass screen', 'piece', ['edge', 'glass', 'iron'], glassScreen()),
    part('Lantern post', 'prop', ['light', 'iron'], lanternPost(), [], [LANTERN_LAMP]),
    part('Crate', 'prop', ['market', 'wood'], crate()),
    part('Barrel', 'prop', ['market', 'wood'], barrel()),
    part('Basket', 'prop', ['market', 'fruit'], basket()),
    part('Bench', 'prop', ['rest', 'wood'], bench()),
    part('Planter', 'prop', ['plants', 'wood'], planter()),
    part('Rowing boat', 'prop', ['boat', 'wood'], rowingBoat()),
    part('Reed', 'prop', ['plants', 'bank'], reed()),
    part('Grass tuft', 'prop', ['plants', 'bank'], grassTuft()),
    part('Meadow star', 'prop', ['plants', 'bank', 'flower'], meadowStar()),
    part('Plum bell', 'prop', ['plants', 'bank', 'flower'], plumBell()),
    part('Field stone', 'prop', ['bank'], fieldStone()),
    part('Red leaf', 'prop', ['plants', 'autumn'], fallenLeaf(palette.red)),
    part('Ochre leaf', 'prop', ['plants', 'autumn'], fallenLeaf(palette.ochre)),
  ]
}
