import { BoxGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { testSolid } from '../../tests/support'
import type { Mesh, Primitive } from './mesh'
import { meshProblem } from './mesh-problem'

const box = testSolid(new BoxGeometry(1, 1, 1)).mesh.primitives[0]!
const changed = (change: (primitive: Primitive) => Partial<Primitive>) => ({
  primitives: [
    {
      ...box,
      ...change({
        ...box,
        positions: box.positions.slice(),
        normals: box.normals.slice(),
        indices: box.indices.slice(),
      }),
    },
  ],
})

describe('a mesh', () => {
  it("of a box can be a part's", () => {
    expect(meshProblem({ primitives: [box] })).toBeNull()
  })

  it('cannot be one if a number of it is none, too large, or names what is not there', () => {
    const at = <K extends 'positions' | 'normals' | 'indices'>(key: K, value: number) =>
      changed(primitive => {
        primitive[key][4] = value
        return { [key]: primitive[key] }
      })
    const cases: [Mesh, string][] = [
      [{ primitives: [] }, 'no triangles'],
      [at('positions', Number.NaN), 'nowhere'],
      [at('positions', 3e9), 'too far'],
      [at('positions', -Infinity), 'nowhere'],
      [at('normals', Number.NaN), 'no number'],
      [at('indices', 24), 'not there'],
      [changed(() => ({ uvs: [new Float32Array(3)] })), 'one length'],
      [changed(() => ({ colors: new Float32Array(4) })), 'one length'],
      [changed(() => ({ normals: new Float32Array(3) })), 'one length'],
      [changed(() => ({ indices: new Uint32Array(3_000_003) })), '1,000,000 triangles'],
      [{ primitives: Array.from({ length: 1001 }, () => box) }, 'pieces'],
    ]
    for (const [mesh, says] of cases) expect(meshProblem(mesh)).toContain(says)
  })
})
