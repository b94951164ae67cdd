import { describe, expect, it } from 'vitest'
import type { ListedLevel } from '~~/core/api/schema'
import { listLevels, tagsOf } from './listing'

const level = (id: string, more: Partial<ListedLevel> = {}): ListedLevel => ({
  id,
  name: id,
  revision: 1,
  placementCount: 10,
  hasPicture: false,
  pictureRevision: 0,
  partId: null,
  variantOf: null,
  beganAt: null,
  tags: [],
  startingPoint: false,
  createdAt: '2026-11-01T00:00:00.000Z',
  changedAt: '2026-11-01T00:00:00.000Z',
  archivedAt: null,
  here: [],
  lastBy: null,
  ...more,
})
const ALL = { text: '', sort: 'name', tag: null, isArchive: false } as const
const names = (all: ListedLevel[], more: Partial<Parameters<typeof listLevels>[1]> = {}, opened = {}) =>
  listLevels(all, { ...ALL, ...more }, opened).map(each => [each.level.name, ...each.variants.map(({ name }) => name)])

describe('the list of levels', () => {
  it('has variants below the level they began from, and by themselves where that is not shown', () => {
    const quay = level('Quay')
    const all = [
      quay,
      level('Quay 2', { variantOf: 'Quay' }),
      level('Quay 3', { variantOf: 'Quay 2' }),
      level('Left alone', { variantOf: 'Gone' }),
    ]
    expect(names(all)).toEqual([['Left alone'], ['Quay', 'Quay 2', 'Quay 3']])
    expect(names([...all.slice(1), { ...quay, archivedAt: quay.createdAt }])).toEqual([
      ['Left alone'],
      ['Quay 2', 'Quay 3'],
    ])
    expect(names([...all.slice(1), { ...quay, archivedAt: quay.createdAt }], { isArchive: true })).toEqual([['Quay']])
    // Two that say they began from each other are listed all the same.
    expect(
      names([level('A', { variantOf: 'B' }), level('B', { variantOf: 'A' })])
        .flat()
        .toSorted(),
    ).toEqual(['A', 'B'])
  })

  it('is searched in names, tags and people, all words of it, and sorted as wanted', () => {
    const all = [
      level('Yard 10', { tags: ['night'], lastBy: 'Ada', placementCount: 5, changedAt: '2026-11-03T00:00:00.000Z' }),
      level('Yard 9', { tags: ['day'], here: ['Bo'], placementCount: 7, changedAt: '2026-11-02T00:00:00.000Z' }),
    ]
    expect(names(all)).toEqual([['Yard 9'], ['Yard 10']])
    expect(names(all, { sort: 'changed' })).toEqual([['Yard 10'], ['Yard 9']])
    expect(names(all, { sort: 'size' })).toEqual([['Yard 9'], ['Yard 10']])
    expect(names(all, { sort: 'opened' }, { 'Yard 9': 2, 'Yard 10': 1 })).toEqual([['Yard 9'], ['Yard 10']])
    expect(names(all, { text: 'yard ADA' })).toEqual([['Yard 10']])
    expect(names(all, { text: 'bo' })).toEqual([['Yard 9']])
    expect(names(all, { text: 'ada day' })).toEqual([])
    expect(names(all, { tag: 'night' })).toEqual([['Yard 10']])
    expect(tagsOf([...all, level('C', { tags: ['night'] })])).toEqual([
      { tag: 'night', count: 2 },
      { tag: 'day', count: 1 },
    ])
  })

  it('finds a level by a variant of it', () => {
    expect(names([level('Quay'), level('Try', { variantOf: 'Quay' })], { text: 'try' })).toEqual([['Quay', 'Try']])
  })
})
