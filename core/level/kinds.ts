import { z } from 'zod'
import type { KindDefinition } from './kind-definition'
import { arrangement } from './kinds/arrangement'
import { block } from './kinds/block'
import type { CameraOwn } from './kinds/camera'
import { camera } from './kinds/camera'
import { group } from './kinds/group'
import type { LightOwn } from './kinds/light'
import { light } from './kinds/light'
import type { MarkerOwn } from './kinds/marker'
import { marker } from './kinds/marker'
import { part } from './kinds/part'

/** Every kind of placement. A further one is a file and a line here. */
export const KINDS = { part, block, arrangement, group, camera, light, marker }

export type Kind = keyof typeof KINDS
export type OwnOf<K extends Kind> = (typeof KINDS)[K]['first']

export const KIND_NAMES = Object.keys(KINDS) as [Kind, ...Kind[]]
export const kindSchema = z.enum(KIND_NAMES)

/** The kinds that stand on the stage as marks. */
export type MarkKind = { [K in Kind]: (typeof KINDS)[K]['isMark'] extends true ? K : never }[Kind]
export const isMarkKind = (kind: Kind): kind is MarkKind => KINDS[kind].isMark
export const MARK_KINDS = KIND_NAMES.filter(isMarkKind)

const { own: partOwn } = KINDS.part
export const anyOwnSchema = z.union([
  partOwn,
  ...Object.values(KINDS)
    .map(({ own }): z.ZodType<OwnOf<Kind>> => own)
    .slice(1),
])

export const isCamera = (own: object): own is CameraOwn => 'fieldOfView' in own
export const isLight = (own: object): own is LightOwn => 'light' in own
export const isMarker = (own: object): own is MarkerOwn => 'marker' in own
const IS_MARK: { [K in MarkKind]: (own: object) => own is OwnOf<K> } = {
  camera: isCamera,
  light: isLight,
  marker: isMarker,
}

/** The kind that own fields are of, of those that stand on the stage as marks; null for all others. */
export const markKindOf = (own: object): MarkKind | null => MARK_KINDS.find(kind => IS_MARK[kind](own)) ?? null

/** What a placement says of itself in a glTF file, besides its id. */
export function extrasOf({ kind, own }: { kind: Kind; own: object }): Record<string, unknown> {
  return (KINDS[kind] as KindDefinition<object, boolean>).extras(own)
}
