import { readdirSync, readFileSync } from 'node:fs'
import { BoxGeometry } from 'three'
import ts from 'typescript'
import { expect, it } from 'vitest'
import { RULES } from '../../core/arrange/rules'
import { billOf } from '../../core/formats/bill'
import { Scope, WHOLE } from '../../core/formats/out/scope'
import { drawLevel } from '../../core/formats/plan/drawing'
import { createPlacement } from '../../core/level/create'
import type { Placement } from '../../core/level/schema'
import { isGround } from '../../core/scene/ground'
import { bareView } from '../../core/scene/level-view'
import { previewMatrices } from '../../core/scene/preview'
import { testId, testSolid } from '../support'

// Whatever a person can nest, groups, arrangements within arrangements, nodes of a file, is gone through with a list of
// what waits, never by functions that call themselves: the stack ends somewhere between five and ten thousand calls.
// Files of core do not import each other in circles (depcruise), so that a function that comes back to itself does so
// within its own file.

/** Those that may, and what bounds them. */
const BOUNDED: Record<string, string> = {
  'core/arrange/path/arc-length.ts ArcLength.cut': 'a number of halvings',
  'core/arrange/scatter/area.ts visit': 'an area that is halved down to a share of another',
  'core/arrange/scatter/visit.ts Visit.piece': "an area that is halved down to a level's",
  'core/arrange/scatter/mask.ts Mask.meanAround': 'one call within another',
  'core/arrange/scatter/mask.ts Mask.upTo': 'one call within another',
  'core/arrange/scatter/tint.ts visit': 'an area that is halved down to a smallest',
  'core/edit/handles/pivot.ts pivotPoint': 'another case of itself, once',
  'core/level/create.ts FreeNames.of': 'the first call fills what the others read',
  'core/measure/set-length.ts stepAlong': 'another case of itself, once',
  'core/scene/level-view.ts LevelView.copies': 'a copy is of an arrangement, whose sources are placements',
  'core/scene/level-view.ts LevelView.copyAsked': 'the same',
  'core/scene/level-view.ts LevelView.find': 'the same',
  'core/scene/level-view.ts LevelView.worldMatrix': 'the same',
  'core/units/expression.ts checkNumber': 'a text of 300 characters',
  'core/units/expression.ts compile': 'the same',
  'core/units/issue.ts innermost': 'unions within unions of a schema',
  'core/units/sum.ts Sum.product': 'a text of 1,000 characters',
  'core/units/sum.ts Sum.raised': 'the same',
  'core/units/sum.ts Sum.signed': 'the same',
  'core/units/sum.ts Sum.single': 'the same',
  'core/units/sum.ts Sum.sum': 'the same',
}

/** The functions of a file that reach themselves by calls, by what each is called. */
function recursiveIn(path: string): string[] {
  const source = ts.createSourceFile(path, readFileSync(path, 'utf8'), ts.ScriptTarget.Latest, true)
  const calls = new Map<string, Set<string>>()
  const visit = (node: ts.Node, inside: string | null, ofClass: string) => {
    let [at, within] = [inside, ofClass]
    if (ts.isClassDeclaration(node) || ts.isClassExpression(node)) within = `${node.name?.text ?? 'class'}.`
    if (ts.isFunctionDeclaration(node) && node.name) at = node.name.text
    else if ((ts.isMethodDeclaration(node) || ts.isGetAccessor(node)) && ts.isClassLike(node.parent))
      at = `${within}${node.name.getText(source)}`
    else if (
      ts.isVariableDeclaration(node)
      && node.initializer
      && (ts.isArrowFunction(node.initializer) || ts.isFunctionExpression(node.initializer))
    )
      at = node.name.getText(source)
    if (at !== null) {
      if (!calls.has(at)) calls.set(at, new Set())
      if (ts.isCallExpression(node) || ts.isNewExpression(node)) {
        const callee = node.expression
        if (ts.isIdentifier(callee)) calls.get(at)!.add(callee.text)
        else if (ts.isPropertyAccessExpression(callee) && callee.expression.kind === ts.SyntaxKind.ThisKeyword)
          calls.get(at)!.add(`${within}${callee.name.text}`)
        // A function handed on, as to map, is called there.
        for (const given of node.arguments ?? []) if (ts.isIdentifier(given)) calls.get(at)!.add(given.text)
      }
      if (
        ts.isPropertyAccessExpression(node)
        && node.expression.kind === ts.SyntaxKind.ThisKeyword
        && !ts.isCallExpression(node.parent)
      )
        calls.get(at)!.add(`${within}${node.name.text}`)
    }
    ts.forEachChild(node, child => visit(child, at, within))
  }
  visit(source, null, '')
  const reaches = (from: string) => {
    const [seen, waiting] = [new Set<string>(), [...calls.get(from)!]]
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      if (seen.has(at) || !calls.has(at)) continue
      seen.add(at)
      waiting.push(...calls.get(at)!)
    }
    return seen
  }
  return [...calls.keys()].filter(name => reaches(name).has(name)).map(name => `${path} ${name}`)
}

const PART = testId(1)
const crate = (parentId: string): Placement =>
  createPlacement({ id: testId(2), name: 'Crate', kind: 'part', partId: PART, parentId })
const { mesh } = testSolid(new BoxGeometry(1, 1, 1))
const partOf = () => ({ name: 'Crate', mesh })

/** What is handed over of a level in each way that goes through all of it, and what of it is shown. */
async function through(placements: readonly Placement[]): Promise<number> {
  const level = bareView(placements)
  for (const { id } of level.placements()) if (level.arrangementIds.has(id)) level.marks(id)
  previewMatrices(level, [{ do: 'put', id: placements[0]!.id, fields: { translation: [1, 0, 0] } }])
  isGround(level, () => ['ground'], placements[0]!.id)
  const [{ count } = { count: 0 }] = await billOf(level, new Scope(level, { ...WHOLE, hidden: true }), partOf, {
    perLayer: false,
    hidden: true,
  })
  await drawLevel(level, new Scope(level, WHOLE), partOf, 'top', Infinity, 0.05)
  return count
}

it('goes through what is as deep and as wide as a level may be', async () => {
  const ids = Array.from({ length: 9990 }, (_, i) => testId(10 + i))
  const below = (link: (id: string, parentId: string | null) => Placement) => [
    ...ids.map((id, i) => link(id, i > 0 ? ids[i - 1]! : null)),
    crate(ids.at(-1)!),
  ]
  expect(await through(below((id, parentId) => createPlacement({ id, name: 'Group', kind: 'group', parentId })))).toBe(
    1,
  )
  const line = (id: string, parentId: string | null) =>
    createPlacement({
      id,
      name: 'Line',
      kind: 'arrangement',
      parentId,
      own: { rule: { ...RULES.line.first, count: 1 } },
    })
  expect(
    await through([...ids.slice(0, 2500).map((id, i) => line(id, i > 0 ? ids[i - 1]! : null)), crate(ids[2499]!)]),
  ).toBe(1)
  const [outer, group] = [testId(3), testId(4)]
  const crowd = Array.from({ length: 140_000 }, (_, i) =>
    createPlacement({ id: testId(100 + i), name: 'Crowd', kind: 'group', parentId: group, order: i }),
  )
  expect(
    await through([
      line(outer, null),
      createPlacement({ id: group, name: 'Group', kind: 'group', parentId: outer }),
      crate(group),
      ...crowd,
    ]),
  ).toBe(1)
})

it('no function of core calls itself as deep as a person can nest something', () => {
  const files = readdirSync('core', { recursive: true, encoding: 'utf8' })
    .filter(path => path.endsWith('.ts') && !path.endsWith('.test.ts'))
    .map(path => `core/${path}`)
  expect(files.length).toBeGreaterThan(200)
  expect(files.flatMap(recursiveIn).toSorted()).toEqual(Object.keys(BOUNDED).toSorted())
})
