import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Rule } from './rules'
import { countOf, definitionOf, keysOf, ruleMatrices, RULE_TYPES, RULES, ruleSchema } from './rules'

/** Of each kind one that comes and some that are harder, in the order of the record. */
const EACH: { [T in Rule['type']]: Extract<Rule, { type: T }>[] } = {
  line: [
    RULES.line.first,
    { ...RULES.line.first, measure: 'fit', along: [7, 0, 0] },
    { ...RULES.line.first, axes: 'local', turn: [0, 20, 0], size: 0.9 },
    { ...RULES.line.first, measure: 'fit', axes: 'local', along: [9, 0, 0], least: 0.5, ratio: 1.1, size: 0.8 },
  ],
  grid: [RULES.grid.first, { ...RULES.grid.first, counts: [3, 4, 5], stagger: 0.5 }],
  ring: [
    RULES.ring.first,
    { ...RULES.ring.first, arc: 90, axis: 0 },
    { ...RULES.ring.first, measure: 'spacing', spacing: 1.5 },
    { ...RULES.ring.first, measure: 'fit', spacing: 0.7, arc: 200 },
  ],
  fan: [
    RULES.fan.first,
    { ...RULES.fan.first, counts: 'spacing' },
    { ...RULES.fan.first, counts: 'given', given: [1, 7, 2] },
    { ...RULES.fan.first, counts: 'fit', spacing: 0.8 },
    { ...RULES.fan.first, measure: 'spacing', spacing: 0.8 },
  ],
  path: [
    RULES.path.first,
    { ...RULES.path.first, measure: 'fit', spacing: 0.7 },
    {
      ...RULES.path.first,
      smooth: false,
      measure: 'ends',
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 5],
      ],
      corners: { room: 0.2, ends: true },
    },
  ],
  mirror: [RULES.mirror.first],
  scatter: [
    RULES.scatter.first,
    {
      ...RULES.scatter.first,
      measure: 'count',
      spread: 'clumps',
      areas: [
        {
          type: 'loop',
          hole: false,
          points: [
            [0, 0, 0],
            [4, 0, 0],
            [4, 0, 5],
          ],
          width: 0,
        },
        {
          type: 'band',
          hole: true,
          points: [
            [0, 0, 0],
            [4, 0, 0],
          ],
          width: 1,
        },
      ],
    },
  ],
}
const rules = RULE_TYPES.flatMap((type): Rule[] => EACH[type])

describe('the definition of each rule', () => {
  it('has one kind for each entry here, and a name of its own', () => {
    expect(RULE_TYPES).toEqual(Object.keys(EACH))
    expect(new Set(Object.values(RULES).map(({ name }) => name)).size).toBe(RULE_TYPES.length)
    for (const type of RULE_TYPES) expect(RULES[type].first.type).toBe(type)
  })

  it('has as many keys as copies, each naming one copy, and no others', () => {
    for (const rule of rules) {
      const keys = keysOf(rule)
      expect([keys.count, ruleMatrices(rule).length / 16]).toEqual([countOf(rule), countOf(rule)])
      expect(definitionOf(rule).most(rule)).toBeGreaterThanOrEqual(countOf(rule))
      const all = Array.from({ length: keys.count }, (_, i) => keys.keyAt(i))
      expect(new Set(all).size).toBe(keys.count)
      all.forEach((key, i) => expect(keys.indexOf(key)).toBe(i))
      const names = all.map((_, i) => definitionOf(rule).nameOf(rule, keys.at(i)))
      expect(new Set(names).size).toBe(keys.count)
    }
    fc.assert(
      fc.property(
        fc.constantFrom(...rules),
        fc.oneof(fc.string(), fc.stringMatching(/^[0-9,.\-e ]{1,12}$/)),
        (rule, key) => {
          const index = keysOf(rule).indexOf(key)
          if (index !== null) expect(keysOf(rule).keyAt(index)).toBe(key)
        },
      ),
      { numRuns: 2000 },
    )
  })

  it('takes what it comes with, and what its grips make of it', () => {
    for (const rule of rules) {
      const { grips, drag } = definitionOf(rule)
      expect(ruleSchema.parse(rule)).toEqual(rule)
      grips(rule).forEach(({ at }, index) => {
        const { rule: dragged } = drag(rule, index, at.clone().add(new Vector3(0.3, 0, 0.2)))
        expect(ruleSchema.safeParse(dragged).success, `${rule.type} ${index}`).toBe(true)
        expect(dragged).not.toEqual(rule)
      })
    }
  })

  it("stands as it stood when a form's choice brings along what it needs", () => {
    for (const rule of rules) {
      const places = (of: Rule) => [...ruleMatrices(of)].map(value => Math.round(value * 1e5) / 1e5 + 0)
      for (const field of definitionOf(rule).fields(rule)) {
        for (const [value, also] of Object.entries((field.type === 'choice' && field.also) || {})) {
          if (rule.type === 'fan' && field.path[0] === 'counts' && rule.counts !== 'fit') continue
          expect(
            places(ruleSchema.parse({ ...rule, ...also, [field.path[0]!]: value })),
            `${rule.type} ${value}`,
          ).toEqual(places(rule))
        }
      }
    }
  })

  it('has form fields that stand in it, with names of their own', () => {
    for (const rule of rules) {
      const fields = definitionOf(rule).fields(rule)
      expect(new Set(fields.map(({ label }) => label)).size).toBe(fields.length)
      for (const field of fields) {
        const value =
          field.path.reduce<unknown>((at, key) => (at as Record<string | number, unknown> | undefined)?.[key], rule)
          ?? ('otherwise' in field ? field.otherwise : undefined)
        if (field.type !== 'switch' || !field.on) expect(value, `${rule.type}: ${field.label}`).toBeDefined()
      }
    }
  })
})
