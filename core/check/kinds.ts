import type { CheckDefinition } from './definition'
import { buried } from './kinds/buried'
import { cameraBlocked } from './kinds/camera-blocked'
import { copiesOverlapping } from './kinds/copies-overlapping'
import { emptyGroup } from './kinds/empty-group'
import { extremeSize } from './kinds/extreme-size'
import { farAway } from './kinds/far-away'
import { flicker } from './kinds/flicker'
import { floating } from './kinds/floating'
import { hanging } from './kinds/hanging'
import { idleLight } from './kinds/idle-light'
import { leftOver } from './kinds/left-over'
import { lostException } from './kinds/lost-exception'
import { mirrored } from './kinds/mirrored'
import { missingPart } from './kinds/missing-part'
import { narrow } from './kinds/narrow'
import { notAsKept } from './kinds/not-as-kept'
import { offGrid } from './kinds/off-grid'
import { offTurn } from './kinds/off-turn'
import { outOfBounds } from './kinds/out-of-bounds'
import { overlapping } from './kinds/overlapping'
import { resized } from './kinds/resized'
import { sameName } from './kinds/same-name'
import { scatteredInto } from './kinds/scattered-into'
import { sightLine } from './kinds/sight-line'
import { skewed } from './kinds/skewed'
import { spawnBlocked } from './kinds/spawn-blocked'
import { stepTooHigh } from './kinds/step-too-high'
import { sunk } from './kinds/sunk'
import { twice } from './kinds/twice'
import { uneven } from './kinds/uneven'
import { unusedPart } from './kinds/unused-part'

/**
 * Every kind of finding, by the word it is kept and sent as; the worse first. A further one is a file and a line here.
 */
const CHECKS = {
  'floating': floating,
  'buried': buried,
  'twice': twice,
  'missing-part': missingPart,
  'skewed': skewed,
  'out-of-bounds': outOfBounds,
  'camera-blocked': cameraBlocked,
  'spawn-blocked': spawnBlocked,
  'narrow': narrow,
  'step-too-high': stepTooHigh,
  'hanging': hanging,
  'sunk': sunk,
  'overlapping': overlapping,
  'copies-overlapping': copiesOverlapping,
  'not-as-kept': notAsKept,
  'flicker': flicker,
  'extreme-size': extremeSize,
  'far-away': farAway,
  'idle-light': idleLight,
  'sight-line': sightLine,
  'off-grid': offGrid,
  'off-turn': offTurn,
  'mirrored': mirrored,
  'resized': resized,
  'uneven': uneven,
  'empty-group': emptyGroup,
  'same-name': sameName,
  'scattered-into': scatteredInto,
  'left-over': leftOver,
  'lost-exception': lostException,
  'unused-part': unusedPart,
} as const satisfies Record<string, CheckDefinition>

export type CheckName = keyof typeof CHECKS
export const CHECK_NAMES = Object.keys(CHECKS) as CheckName[]

/** A kind of finding by its word. */
export const checkOf = (name: CheckName): CheckDefinition => CHECKS[name]
