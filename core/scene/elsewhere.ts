import type { Matrix4 } from 'three'

/** Where a level lies that is seen from another one, and the thing of it that is left out, with all below. */
export type Elsewhere = { matrix: Matrix4; without: string }

const MARK = 'around '

/** What a thing of the level around is called, or a copy, so that none of the level itself is meant. */
export const aroundId = (id: string) => `${MARK}${id}`

/** The thing of the level around that is meant; null for one of the level itself. */
export const idAround = (id: string) => (id.startsWith(MARK) ? id.slice(MARK.length) : null)
