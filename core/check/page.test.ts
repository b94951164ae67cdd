import fc from 'fast-check'
import { expect, it, vi } from 'vitest'
import type { Box } from '../../tests/check-support'
import { checkBoxes } from '../../tests/check-support'
import { testId } from '../../tests/support'
import { LevelCheck } from './check'
import type { CheckPage } from './page'
import { checkPage } from './page'
import { CheckSite } from './site'

// Boxes close together, so that they are in each other, float, hang and are twice in one place across the pages.
const boxes = fc.array(
  fc.record({
    x: fc.integer({ min: -5, max: 5 }),
    y: fc.integer({ min: -1, max: 4 }),
    z: fc.integer({ min: -5, max: 5 }),
    mirrored: fc.constantFrom(1, 1, 1, -1),
    isGroup: fc.constantFrom(false, false, false, false, true),
  }),
  { minLength: 1, maxLength: 60 },
)

it('has each finding of the whole once, whatever fits on a page', () => {
  const seen = new Set<string>()
  fc.assert(
    fc.property(boxes, fc.integer({ min: 1, max: 4 }), (all, looks) => {
      const made = checkBoxes([
        { size: [9, 0.2, 9], translation: [0, -0.2, 0], tags: ['ground'], kindOfPart: 'piece' },
        ...(all.map(
          ({ x, y, z, mirrored, isGroup }): Box => ({
            ...(isGroup ? {} : { size: [1, 1, 1] as const }),
            translation: [x / 2, y / 2, z / 2],
            scale: [mirrored, 1, 1],
          }),
        ) as Box[]),
      ])
      const found: unknown[] = []
      let pages = 0
      for (let next: string | null | undefined; next !== null; pages++) {
        let asked = 0
        const fresh = new LevelCheck(new CheckSite(made.level, made.index, made.kit))
        // The level was read anew for each page, and in another order.
        const subjects = fresh.subjects()
        vi.spyOn(fresh, 'subjects').mockReturnValue(pages % 2 === 0 ? subjects : subjects.toReversed())
        const page: CheckPage = checkPage(fresh, next, () => ++asked >= looks)
        expect(page.next === null || page.next > (next ?? '')).toBe(true)
        expect(page.share === 1).toBe(page.next === null)
        found.push(...page.findings)
        next = page.next
      }
      expect(pages).toBe(Math.ceil(made.check.subjects().length / (16 * looks)))
      const sorted = (list: unknown[]) => list.map(each => JSON.stringify(each)).sort()
      expect(sorted(found)).toEqual(sorted(made.check.findings))
      for (const { of } of made.check.findings) seen.add(of)
    }),
    { numRuns: 60 },
  )
  expect(seen.size).toBeGreaterThan(4)
})

it('goes on behind a subject that is there no more, and is empty behind the last', () => {
  const { check } = checkBoxes([0, 9].map(x => ({ size: [1, 1, 1], translation: [x, 5, 0] })))
  expect(checkPage(check, testId(9999), () => false)).toEqual({ findings: [], next: null, share: 1 })
  const { findings } = checkPage(check, `${testId(1)}-`, () => false)
  expect(findings.length).toBeGreaterThan(0)
  expect(findings.flatMap(({ things }) => things)).not.toContain(testId(1))
})
