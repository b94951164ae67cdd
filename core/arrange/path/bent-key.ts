import type { Matrix4 } from 'three'
import { Matrix4 as ThreeMatrix4 } from 'three'
import type { Mesh } from '../../mesh/mesh'
import { bendMesh } from './bend-mesh'
import type { Lifts } from './bend'
import type { PathRule } from './rule'
import { pathSchema } from './rule'

const PREFIX = 'bent:'

/**
 * Names the shape of a piece bent along a path. Everything that the mesh depends on is in the name, as with blocks.
 *
 * @param placed from the shape's axes to the arrangement's, before it is bent
 * @param home from the piece's own axes to the arrangement's: the mesh is made in those
 * @param lifts lay it on the ground; empty if it keeps to the path
 */
export function bentKey(
  shape: string,
  rule: PathRule,
  index: number,
  placed: Matrix4,
  home: Matrix4,
  lifts: Lifts,
): string {
  return PREFIX + JSON.stringify({ shape, rule, index, placed: placed.elements, home: home.elements, lifts })
}

export function isBentKey(key: string): boolean {
  return key.startsWith(PREFIX)
}

/**
 * What a key begins with: names are long, and many are asked for while a path is dragged, so that they are not read
 * whole.
 */
const LEADING = /^bent:\{"shape":("(?:[^"\\]|\\.)*")/

/** The shape that is bent, which is no bent one. Any other shape is its own. */
export function baseOfShape(shape: string): string {
  const leading = LEADING.exec(shape)
  return leading ? (JSON.parse(leading[1]!) as string) : shape
}

/** The name of what is bent as a bent shape is, but of another. */
export function withBase(key: string, base: string): string {
  const [leading] = LEADING.exec(key)!
  return `${PREFIX}{"shape":${JSON.stringify(base)}${key.slice(leading.length)}`
}

/** The mesh a key names. @param meshOf the mesh of the shape that is bent; undefined while it is not there */
export function meshOfBentKey(key: string, meshOf: (shape: string) => Mesh | undefined): Mesh | undefined {
  const { shape, rule, index, placed, home, lifts } = JSON.parse(key.slice(PREFIX.length)) as {
    shape: string
    rule: unknown
    index: number
    placed: number[]
    home: number[]
    lifts: Lifts
  }
  const mesh = meshOf(shape)
  return (
    mesh
    && bendMesh(
      mesh,
      knownRule(rule),
      index,
      new ThreeMatrix4().fromArray(placed),
      new ThreeMatrix4().fromArray(home),
      lifts,
    )
  )
}

/**
 * Of the paths asked for last, by what is in them: the pieces of one path are asked for one after the other, and share
 * its layout.
 */
const rules = new Map<string, PathRule>()
const MOST_RULES = 20

function knownRule(given: unknown): PathRule {
  const text = JSON.stringify(given)
  let rule = rules.get(text)
  if (!rule) {
    if (rules.size >= MOST_RULES) rules.clear()
    rules.set(text, (rule = pathSchema.parse(given)))
  }
  return rule
}
