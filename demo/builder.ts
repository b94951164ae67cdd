import type { ArrangementOwn } from '../core/arrange/arrangement'
import { createPlacement } from '../core/level/create'
import type { LevelRecords } from '../core/level/level'
import type { Block, Placement } from '../core/level/schema'
import { degreesToQuat } from '../core/math/transform'
import type { Vec3 } from '../core/math/vectors'
import { demoId } from './kit'

/** A level that is made in code. */
export type MadeLevel = { placements: Placement[] } & Partial<LevelRecords>

/** Puts things into a level that is made in code: each by its name, which no other has, with an id that follows. */
export class LevelBuilder {
  readonly placements: Placement[] = []
  readonly blocks: Block[] = []

  /** @param level what the ids of its things begin with */
  constructor(private readonly level: string) {}

  readonly idOf = (name: string): string => demoId(`${this.level}/${name}`)

  /** @param turn degrees about X, Y and Z */
  readonly add = (
    name: string,
    fields: Pick<Placement, 'kind' | 'partId' | 'parentId'> & Partial<Placement>,
    at: Vec3,
    turn: Vec3 = [0, 0, 0],
  ): string => {
    const id = this.idOf(name)
    const order = this.placements.length
    this.placements.push(
      createPlacement({ id, name, order, translation: at, rotation: degreesToQuat(turn), ...fields }),
    )
    return id
  }

  readonly group = (
    name: string,
    at: Vec3 = [0, 0, 0],
    turn: Vec3 = [0, 0, 0],
    parentId: string | null = null,
  ): string =>
    this.add(name, { kind: 'group', partId: null, parentId, own: parentId === null ? { open: true } : {} }, at, turn)

  /** @param heading degrees about the vertical */
  readonly put = (parentId: string | null, name: string, partName: string, at: Vec3, heading = 0): string =>
    this.add(name, { kind: 'part', partId: demoId(`part/${partName}`), parentId }, at, [0, heading, 0])

  readonly arrangement = (
    parentId: string | null,
    name: string,
    rule: ArrangementOwn['rule'],
    at: Vec3,
    turn: Vec3 = [0, 0, 0],
  ): string => this.add(name, { kind: 'arrangement', partId: null, parentId, own: { rule } }, at, turn)

  /** A block that nothing else shares. */
  readonly block = (
    parentId: string | null,
    name: string,
    color: string,
    shape: Block['shape'],
    at: Vec3,
    turn: Vec3 = [0, 0, 0],
  ): string => {
    const blockId = this.idOf(`block/${name}`)
    this.blocks.push({ id: blockId, color, shape })
    return this.add(name, { kind: 'block', partId: null, blockId, parentId }, at, turn)
  }
}
