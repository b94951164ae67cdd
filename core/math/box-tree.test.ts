import fc from 'fast-check'
import { Box3, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyLength, anyVec3 } from '../../tests/support'
import { BoxTree } from './box-tree'
import { chanceAt } from './random'

const anySide = fc.double({ min: 0, max: 8, noNaN: true })
const anyBox = fc
  .tuple(anyVec3, anySide, anySide, anySide)
  .map(([at, w, h, d]) => new Box3(new Vector3(...at), new Vector3(...at).add(new Vector3(w, h, d))))
const anyStep = fc.oneof(
  anyBox.map(box => ({ do: 'insert' as const, box })),
  fc.tuple(fc.nat(), anyBox).map(([which, box]) => ({ do: 'update' as const, which, box })),
  fc.nat().map(which => ({ do: 'remove' as const, which })),
)

/** A tree that has lived through inserts, moves and removals, and what must be in it. */
const anyLife = fc.array(anyStep, { maxLength: 120, size: 'max' }).map(steps => {
  const tree = new BoxTree()
  const boxes = new Map<number, Box3>()
  for (const step of steps) {
    const handles = [...boxes.keys()]
    if (step.do === 'insert') boxes.set(tree.insert(step.box), step.box)
    else if (handles.length > 0) {
      const handle = handles[step.which % handles.length]!
      if (step.do === 'update') {
        tree.update(handle, step.box)
        boxes.set(handle, step.box)
      } else {
        tree.remove(handle)
        boxes.delete(handle)
      }
    }
  }
  return { tree, boxes }
})

describe('BoxTree', () => {
  it('finds by region exactly what looking at every box finds', () => {
    fc.assert(
      fc.property(anyLife, anyBox, ({ tree, boxes }, region) => {
        const found: number[] = []
        tree.query(
          (x0, y0, z0, x1, y1, z1) => {
            const box = new Box3(new Vector3(x0, y0, z0), new Vector3(x1, y1, z1))
            return region.containsBox(box) ? 'inside' : region.intersectsBox(box) ? 'across' : 'outside'
          },
          (leaf, inside) => {
            found.push(leaf)
            expect(inside).toBe(region.containsBox(boxes.get(leaf)!))
          },
        )
        const expected = [...boxes].filter(([, box]) => box.intersectsBox(region)).map(([leaf]) => leaf)
        expect(found.sort((a, b) => a - b)).toEqual(expected.sort((a, b) => a - b))
        expect(tree.size).toBe(boxes.size)
      }),
    )
  })

  // Against three's own ray and box test.
  it('finds by ray exactly what three finds box by box', () => {
    fc.assert(
      fc.property(
        anyLife,
        anyVec3,
        anyVec3.filter(way => Math.hypot(...way) > 0.1),
        ({ tree, boxes }, from, way) => {
          const ray = new Ray(new Vector3(...from), new Vector3(...way).normalize())
          const found: number[] = []
          tree.raycast(ray, (leaf, farthest) => {
            found.push(leaf)
            return farthest
          })
          const expected = [...boxes].filter(([, box]) => ray.intersectsBox(box)).map(([leaf]) => leaf)
          expect(found.sort((a, b) => a - b)).toEqual(expected.sort((a, b) => a - b))
        },
      ),
    )
  })

  it('goes straight along an axis, and through the faces of a box', () => {
    const tree = new BoxTree()
    const box = tree.insert(new Box3(new Vector3(0, 0, 0), new Vector3(1, 1, 1)))
    const hits: number[] = []
    const shoot = (x: number, y: number) =>
      tree.raycast(new Ray(new Vector3(x, y, -5), new Vector3(0, 0, 1)), (leaf, far) => {
        hits.push(leaf)
        return far
      })
    shoot(0.5, 0.5)
    shoot(2, 0.5)
    shoot(0, 0)
    expect(hits).toEqual([box, box])
  })

  it('stops early when told how far is far enough', () => {
    const tree = new BoxTree()
    for (let i = 0; i < 1000; i++) tree.insert(new Box3(new Vector3(i * 2, 0, 0), new Vector3(i * 2 + 1, 1, 1)))
    let visits = 0
    tree.raycast(new Ray(new Vector3(-1, 0.5, 0.5), new Vector3(1, 0, 0)), (_leaf, far) => {
      visits++
      return Math.min(far, 1.5)
    })
    expect(visits).toBeLessThan(20)
  })

  // Many at once are put together in slices; what is asked in the middle of it has to find all.
  it('finds all whenever it is asked, also while it is being put together', () => {
    fc.assert(
      fc.property(fc.array(anyBox, { minLength: 1, maxLength: 60 }), fc.nat(6), fc.nat(3), (boxes, steps, more) => {
        const tree = new BoxTree()
        const expected = boxes.map(box => tree.insert(box))
        const settling = tree.settling()
        for (let i = 0; i < steps; i++) settling.next()
        for (const box of boxes.slice(0, more)) expected.push(tree.insert(box))
        const found: number[] = []
        const all = () => {
          found.length = 0
          tree.query(
            () => 'across',
            leaf => found.push(leaf),
          )
          return found.sort((a, b) => a - b)
        }
        expect(all()).toEqual(expected)
        for (const _ of settling);
        expect(all()).toEqual(expected)
      }),
    )
  })

  it('looks at few boxes around a place of a flat level', () => {
    const random = chanceAt('move', 7, 0, 0, 0)
    const next = () => random.share()
    const count = 40_000
    const tree = new BoxTree()
    const place = () => new Vector3((next() - 0.5) * 320, 0, (next() - 0.5) * 320)
    const boxThere = () => {
      const at = place()
      return new Box3(at, at.clone().add(new Vector3(0.2 + next(), 0.2 + next() * 2, 0.2 + next())))
    }
    const leaves = Array.from({ length: count }, () => tree.insert(boxThere()))
    for (const leaf of leaves.slice(0, 10_000)) tree.update(leaf, boxThere())
    let asked = 0
    for (let i = 0; i < 500; i++) {
      const { x, z } = place()
      tree.query(
        (x0, _y0, z0, x1, _y1, z1) => {
          asked++
          return x < x0 || x > x1 || z < z0 || z > z1 ? 'outside' : 'across'
        },
        () => {},
      )
    }
    // Two for each level on the way to one leaf are 2 log2(40,000) = 31; boxes that reach into each other cost more.
    expect(asked / 500).toBeLessThan(60)
  })

  it('stays shallow, whatever the order of insertion', () => {
    for (const place of [(i: number) => i, (i: number) => (i * 7919) % 4096]) {
      const tree = new BoxTree()
      for (let i = 0; i < 4096; i++)
        tree.insert(new Box3(new Vector3(place(i), 0, 0), new Vector3(place(i) + 0.5, 1, 1)))
      // As deep as an AVL-balanced tree of as many leaves, 1.44 log2(n) (Adelson-Velsky and Landis 1962, from memory).
      expect(tree.depth()).toBeLessThanOrEqual(Math.ceil(1.44 * 12) + 2)
    }
  })

  it('knows the box around everything', () => {
    fc.assert(
      fc.property(anyLife, ({ tree, boxes }) => {
        const all = new Box3()
        for (const box of boxes.values()) all.union(box)
        expect(
          tree.boundsOfAll(new Box3()).equals(all) || (all.isEmpty() && tree.boundsOfAll(new Box3()).isEmpty()),
        ).toBe(true)
      }),
    )
  })

  it('holds a box of no thickness', () => {
    fc.assert(
      fc.property(anyLength, x => {
        const tree = new BoxTree()
        tree.insert(new Box3(new Vector3(x, -1, -1), new Vector3(x, 1, 1)))
        let hit = false
        tree.raycast(new Ray(new Vector3(x - 3, 0, 0), new Vector3(1, 0, 0)), (_leaf, far) => {
          hit = true
          return far
        })
        expect(hit).toBe(true)
      }),
    )
  })
})
