import { Box3, Matrix4 } from 'three'
import { v7 } from 'uuid'
import type { Join, SocketAt } from '~~/core/edit/snap/sockets'
import { freeSocketsIn, joiningMatrix, socketsAt, socketUnder } from '~~/core/edit/snap/sockets'
import { createPlacement, freeName, lastOrder } from '~~/core/level/create'
import type { Part, Socket } from '~~/core/level/part'
import { decompose } from '~~/core/math/transform'
import type { Solid } from '~~/core/mesh/solid'
import { joinName } from '~/editor/tools/drags/move'
import type { Gesture, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { ToolWorld } from '~/editor/tools/tool-world'
import { wordFor } from '~~/core/units/plural'

/** A piece that fits an end, by one of its own. */
export type Piece = { part: Part; solid: Solid; socket: Socket }

/** Metres around the pointer's place in which free ends are looked for. */
const AROUND = 30

/**
 * Puts pieces to free ends, one with each click: the end under the pointer is taken, and shows the next piece. The
 * wheel changes the piece, and by which of its ends it is put there.
 */
export class ChainTool implements StageMode {
  readonly id = { tool: 'chain' } as const
  readonly title = 'Drawing a chain: click a free end; the wheel changes the piece'
  private choice = 0
  private pointer: PointerAt | null = null
  private next: { join: Join; piece: Piece; matrix: Matrix4 } | null = null

  /** @param piecesFor the pieces of the kit that fit an end */
  constructor(
    private readonly world: ToolWorld,
    private readonly piecesFor: (socket: Socket) => readonly Piece[],
  ) {
    world.stage.handles.place(null)
  }

  hover(pointer: PointerAt): void {
    this.pointer = pointer
    const { stage } = this.world
    const aim = stage.viewAt(pointer).aim(pointer)
    const free = this.freeEnds(pointer)
    const end = socketUnder(free, aim)
    this.next = end && this.pieceAt(end)
    stage.hint({ ends: free, ...(end ? { target: end.point } : {}) })
    if (!this.next) {
      stage.ghost.hide()
      stage.requestDraw()
      this.world.say({
        at: pointer,
        title: 'Chain',
        value: free.length === 0 ? 'no free end here' : `${free.length} free ${wordFor(free.length, 'end')}`,
        notes: [end ? 'no piece of the kit fits this end' : 'point at one'],
      })
      return
    }
    const { join, piece, matrix } = this.next
    stage.ghost.show(piece.solid.geometries, matrix, piece.solid.bounds, join.other.point.y)
    stage.moves()
    stage.sceneChanged()
    this.world.say({
      at: pointer,
      title: `Chain: ${piece.part.name}`,
      value: joinName(join, id => this.world.level().need(id).name),
      notes: ['the wheel changes the piece'],
    })
  }

  wheel(delta: number): void {
    this.choice += Math.sign(delta)
    if (this.pointer) this.hover(this.pointer)
  }

  press(pointer: PointerAt): Gesture | null {
    this.hover(pointer)
    if (!this.next) return null
    const {
      piece: { part },
      matrix,
    } = this.next
    const level = this.world.level()
    const { id, ...fields } = createPlacement({
      id: v7(),
      name: freeName(level, part.name),
      kind: 'part',
      partId: part.id,
      order: lastOrder(level, null),
      pivot: part.pivot,
      ...decompose(matrix, part.pivot),
    })
    if (this.world.change(`Place ${fields.name}`, [{ do: 'put', id, fields }])) this.world.pick([id])
    this.hover(pointer)
    return null
  }

  leave(): void {
    this.next = null
    this.world.stage.ghost.hide()
    this.world.stage.hint(null)
    this.world.stage.requestDraw()
    this.world.say(null)
  }

  stop(): void {
    this.leave()
  }

  private freeEnds(pointer: PointerAt): SocketAt[] {
    const socketsOf = this.world.sockets(false)
    if (!socketsOf) return []
    const { stage } = this.world
    const { ray } = stage.viewAt(pointer).aim(pointer)
    const middle = this.world.index().raycast(ray)?.point ?? ray.at(AROUND / 2, ray.origin.clone())
    return freeSocketsIn(
      this.world.index(),
      new Box3(middle, middle).clone().expandByScalar(AROUND),
      socketsOf,
      () => true,
    )
  }

  /** The piece that is chosen for an end, where it would stand. */
  private pieceAt(end: SocketAt): { join: Join; piece: Piece; matrix: Matrix4 } | null {
    const pieces = this.piecesFor(end.socket)
    if (pieces.length === 0) return null
    const piece = pieces[((this.choice % pieces.length) + pieces.length) % pieces.length]!
    const [own] = socketsAt('', [piece.socket], new Matrix4())
    const join = { own: own!, other: end }
    return { join, piece, matrix: joiningMatrix(join) }
  }
}
