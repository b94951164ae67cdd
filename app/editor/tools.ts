import { createEventHook } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { Vector3 } from 'three'
import type { Handle } from '~~/core/edit/handles/handle'
import type { PivotPlace } from '~~/core/edit/handles/pivot'
import { pivotOf, setPivots, toOwn } from '~~/core/edit/handles/pivot'
import { gripPoint } from '~~/core/edit/handles/size'
import { changedRelations } from '~~/core/relate/changed'
import { withRelations } from '~~/core/relate/keep'
import { sayChanged } from '~~/core/relate/say'
import type { Kind } from '~~/core/level/kinds'
import { KINDS } from '~~/core/level/kinds'
import type { Block, Operation } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import { shapeKey } from '~~/core/mesh/block-key'
import { copyOf } from '~~/core/scene/copy-id'
import { idAround } from '~~/core/scene/elsewhere'
import { carriedScatters } from '~~/core/scene/carried'
import { isGround } from '~~/core/scene/ground'
import type { LevelView } from '~~/core/scene/level-view'
import { previewArranged, previewMatrices } from '~~/core/scene/preview'
import type { Claim } from '~/stage/slot'
import { Slot } from '~/stage/slot'
import type { Stage } from '~/stage/stage'
import type { DragKind } from './tools/drags/drag-kind'
import type { RuleGrip } from '~~/core/arrange/definition'
import { markGripDrag, markGripsInWorld } from './tools/drags/mark-grip'
import { gripDrag, gripsInWorld } from './tools/drags/grip'
import { moveDrag } from './tools/drags/move'
import { pointDrag } from './tools/drags/pivot'
import { sizeDrag } from './tools/drags/size'
import { turnDrag } from './tools/drags/turn'
import { Coasting } from './tools/coasting'
import type { Caught, Duplicated, ToolWorld } from './tools/tool-world'
import { useHandling } from './handling'
import { useKit } from './kit'
import { useLevel } from './level'
import { useReserved } from './reserved'
import { useSettings } from './settings'
import { useStageSession } from './stage-session'
import { toMicrometre } from '~~/core/math/micrometre'

/** The own fields that operations put. */
const ownPut = (operations: readonly Operation[]) =>
  new Map(
    operations.flatMap(operation =>
      operation.do === 'put' && operation.fields.own ? [[operation.id, operation.fields.own] as const] : [],
    ),
  )

/** Of more that is kept it is not said while it is dragged what becomes of it. */
const MOST_SAID = 2

/** Metres a second at which somebody flies who has not chosen yet. */
const FIRST_SPEED = 6

/** What tools work with: the level, the handles, what a press starts, and what is shown meanwhile. */
export const useTools = defineStore('tools', () => {
  const level = useLevel()
  const settings = useSettings()
  const reserved = useReserved()
  const kit = useKit()
  const handling = useHandling()
  const session = useStageSession()
  /** Only things of this kind can be picked; null for all. */
  const kindFilter = ref<Kind | null>(null)

  /** What was duplicated last: the step from the one to the other is made once more by its key. */
  const lastDuplicated = shallowRef<Duplicated | null>(null)

  const levelAndIndex = { level: () => level.view, index: () => level.index }

  function canPick(id: string): boolean {
    return !level.view.isLocked(id) && (kindFilter.value === null || level.view.need(id).kind === kindFilter.value)
  }

  /** A thing of the level, or of the one around it, and the level that it is in. */
  function find(id: string): { view: LevelView; id: string } {
    const other = idAround(id)
    return other !== null && level.around ? { view: level.around.view, id: other } : { view: level.view, id }
  }

  const caughtHook = createEventHook<[Caught]>()

  /** The editor as tools see it. */
  function worldOf(stage: Stage): ToolWorld {
    return {
      stage,
      ...levelAndIndex,
      finder: () => level.around?.finder ?? level.index,
      nameOf: id => {
        const found = find(id)
        return found.view.get(found.id)?.name ?? ''
      },
      selection: () => level.selection,
      pick: level.pick,
      change: level.change,
      keepsPlaced: () => settings.kept.keepsPlaced,
      keepsAbutting: () => settings.kept.abutKeeps,
      keep: caught => void caughtHook.trigger(caught),
      solid: kit.solid,
      preview: claimDrag(),
      sayKept: () =>
        changedRelations(level.view, ofOwn ?? [])
          .slice(0, MOST_SAID)
          .map(each => sayChanged(level.view, each, { length: printLength, axes: settings.axes })),
      frame: () => handling.frame(stage.view.directions()),
      around: handling.around,
      // A drag cannot wait for the server to bake.
      duplicateAs: () => (settings.kept.duplicate.as === 'instance' ? 'instance' : 'copy'),
      duplicated: pairs => {
        lastDuplicated.value = pairs
      },
      step: settings.stepInForce,
      moveSnaps: inverted => handling.moveSnaps(stage.view.directions(), inverted),
      isGround: id => {
        const found = find(id)
        return isGround(found.view, kit.tagsOf, found.id)
      },
      sockets: inverted => (settings.kept.sockets && !inverted ? kit.socketsOf : null),
      lock: () => handling.lock,
      setLock: lock => {
        handling.lock = lock
      },
      vertexOn: () => handling.vertexOn,
      holdVertex: held => {
        handling.vertexHeld = held
      },
      startDrag: (handle, _from, source) => startDrag(stage, handle, source),
      ask: numbers => {
        session.typed = numbers
      },
      gestureDone: () => session.input?.gestureDone(),
      isLeaning: () => settings.kept.leaning,
      steepSide: () => settings.kept.steepSide,
      printLength,
      axes: () => settings.axes,
      coasting,
      coasts: () => (settings.movesLess ? 0 : settings.kept.pointing.goesOn),
      printAngle: (degrees, signed = false) => `${signed && degrees >= 0 ? '+' : ''}${settings.angle(degrees)}`,
      say: said => {
        session.readout = said
      },
      canPick,
      handOn: id => {
        for (
          let at: string | null = copyOf(id)?.arrangementId ?? id;
          at !== null;
          at = level.view.get(at)?.parentId ?? null
        ) {
          const name = movers.value.get(at)
          if (name !== undefined) return { name, does: 'moves' }
        }
        const kept = reserved.of(level.view, id)
        return kept && { name: kept.by, does: 'has reserved' }
      },
      // Who works with them at the bench means them.
      marksPickable: () =>
        settings.kept.marksPickable
        || (settings.kept.bench === 'cameras' && settings.panels.showBench)
        || (kindFilter.value !== null && KINDS[kindFilter.value].isMark),
      showFrame: frame => {
        session.pickFrame = frame
      },
      pointing: () => settings.kept.pointing,
      flySpeed: () => settings.kept.flySpeeds[level.summary?.id ?? ''] ?? FIRST_SPEED,
      setFlySpeed: speed => {
        if (level.summary) settings.kept.flySpeeds[level.summary.id] = speed
      },
    }
  }

  const coasting = new Coasting()

  /** A length in the unit worked in, with the unit. */
  function printLength(metres: number, signed = false): string {
    return `${signed && metres >= 0 ? '+' : ''}${settings.lengths([metres])}`
  }

  /** Shows the handles where the selection stands, or none. */
  function placeHandles(draw = true): void {
    const of = session.stage
    if (!of) return
    of.handles.choose(
      session.mode ? 'none' : handling.editingPivot ? (handling.editsPin ? 'move' : 'pivot') : handling.choice,
    )
    of.handles.place(session.mode ? null : handling.frame(of.view.directions()))
    of.handles.setPin(settings.kept.pivot === 'pin' && handling.pin ? new Vector3(...handling.pin) : null)
    // Grips stand where the copies do, whatever the view; a frame that is drawn needs no new ones.
    if (draw) of.handles.setGrips(session.mode || handling.editingPivot ? [] : pickedGrips())
    of.handles.setTurnStep(settings.kept.steps.turn.size)
    if (draw) of.requestOverlay()
  }

  /** What the one picked thing can be taken hold of by, besides its handles. */
  function pickedGrips(): RuleGrip[] {
    const arranged = handling.pickedRule()
    if (arranged) return gripsInWorld(levelAndIndex, arranged.id, arranged.rule)
    const last = level.selection.ids.size === 1 ? handling.lead() : null
    return last === null || handling.choice === 'none' ? [] : markGripsInWorld(level.view, last)
  }

  const preview = new Slot<readonly Operation[]>(wanted => {
    if (!session.stage) return
    ofOwn = wanted && withRelations(level.view, level.index, wanted).operations
    level.preview(ofOwn)
    show(session.stage)
  })

  /** What a tool would do if it was let go of now. */
  const dragged = shallowRef<readonly Operation[] | null>(null)
  /** Who else drags which things right now, by name. */
  const movers = shallowRef<ReadonlyMap<string, string>>(new Map())
  let ofOwn: readonly Operation[] | null = null
  let ofOthers: readonly Operation[] = []

  /** Shows what others hold, as they would leave it; of what is held here nothing. */
  function showOthers(operations: readonly Operation[]): void {
    if (operations.length === 0 && ofOthers.length === 0) return
    ofOthers = operations
    if (session.stage) show(session.stage)
  }

  /** What a tool would do, which others may be told of. */
  function claimDrag(): Claim<readonly Operation[]> {
    const claim = preview.claim()
    return operations => {
      dragged.value = operations
      claim(operations)
    }
  }

  function show(stage: Stage): void {
    const own = new Set(ofOwn?.map(({ id }) => id))
    const others = ofOthers.filter(({ id }) => !own.has(id))
    const operations = ofOwn || others.length > 0 ? [...others, ...(ofOwn ?? [])] : null
    const fresh = new Map<string, string>()
    const blocks = new Map<string, Pick<Block, 'shape' | 'color'>>(level.view.blocks)
    for (const operation of operations ?? []) {
      if (operation.do === 'put-block')
        blocks.set(operation.id, { ...blocks.get(operation.id), ...operation.fields } as Block)
      if (operation.do !== 'put') continue
      const { partId, blockId } = operation.fields
      const block = blockId ? blocks.get(blockId) : undefined
      const shape = block ? shapeKey(block) : partId
      if (shape) fresh.set(operation.id, shape)
    }
    if (!operations) return stage.preview()
    const matrices = previewMatrices(level.view, operations)
    const carried = carriedScatters(level.view, matrices)
    stage.preview({
      matrices: new Map([...matrices, ...carried.matrices]),
      dealt: carried.dealt,
      fresh,
      arranged: previewArranged(level.view, operations),
      own: ownPut(operations),
      written: new Set(operations.map(({ id }) => id)),
    })
  }

  /** What a press on a handle starts, or one with a lock or on a point to be snapped anywhere on the stage. */
  function startDrag(stage: Stage, handle: Handle | null, source?: Vector3): DragKind | null {
    const last = handling.lead()
    const world = worldOf(stage)
    if (handle?.do === 'grip')
      return last === null ? null : (gripDrag(world, last, handle.index) ?? markGripDrag(world, last, handle.index))
    const frame = handling.frame(stage.view.directions())
    if (!frame || last === null) return null
    const move = handle?.do === 'move' ? handle : { kind: 'view' as const }
    if (handling.editsPin) return pinDrag(world, frame, move)
    if (handling.editingPivot) {
      return pointDrag(world, frame, move, 'Move the pivot of', point =>
        setPivots(level.view, [last], toOwn(level.view, last, point)),
      )
    }
    if (source || handle?.do === 'move') return moveDrag(world, frame, move, source)
    const kind = handle?.do ?? handling.choice
    if (kind === 'turn') return turnDrag(world, frame, handle?.do === 'turn' ? handle.axis : 1)
    if (kind === 'size') return frame.box && sizeDrag(world, frame, handle?.do === 'size' ? handle.grip : [1, 1, 1])
    return moveDrag(world, frame, move)
  }

  function pinDrag(
    world: ToolWorld,
    frame: NonNullable<ReturnType<typeof handling.frame>>,
    move: Parameters<typeof pointDrag>[2],
  ): DragKind {
    const before = handling.pin
    const put = (point: Vector3) => {
      handling.pin = point.toArray()
      placeHandles()
      return []
    }
    const restore = () => {
      handling.pin = before
    }
    return { ...pointDrag(world, frame, move, 'Move the pin', put), restore }
  }

  /** Puts the last picked thing's pivot to one of the 27 places of its box; the thing stays where it is. */
  function putPivotAt(place: PivotPlace): void {
    const last = handling.lead()
    const box = session.stage && handling.frame(session.stage.view.directions())?.box
    if (last === null || !box) return
    const own = toOwn(level.view, last, gripPoint(box, place)).map(toMicrometre) as Vec3
    level.change(`Move the pivot of ${level.view.need(last).name}`, setPivots(level.view, [last], own))
  }

  function togglePivotEditing(): void {
    const last = handling.lead()
    if (settings.kept.pivot === 'pin' && handling.pin === null && last !== null)
      handling.pin = pivotOf(level.view, last).toArray()
    handling.editingPivot = !handling.editingPivot && last !== null
    if (handling.editingPivot && handling.choice === 'none') handling.choice = 'move'
    placeHandles()
  }

  return {
    kindFilter,
    lastDuplicated,
    canPick,
    worldOf,
    printLength,
    placeHandles,
    /** Shows on the stage and in the ledger what operations would do. */
    claimPreview: () => preview.claim(),
    dragged,
    movers,
    /** A drag has caught something that is to stay so. */
    onCaught: caughtHook.on,
    showOthers,
    putPivotAt,
    togglePivotEditing,
  }
})
