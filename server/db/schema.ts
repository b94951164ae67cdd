import { sql } from 'drizzle-orm'
import type { AnyPgColumn } from 'drizzle-orm/pg-core'
import {
  boolean,
  check,
  customType,
  doublePrecision,
  foreignKey,
  index,
  integer,
  json,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core'
import type { KeptDeed } from '../../core/api/accounts'
import { WAYS_MADE } from '../../core/api/milestones'
import type { KeptSettings } from '../../core/api/person-settings'
import { LEVEL_ROLES, ROLES } from '../../core/api/roles'
import type {
  Block,
  Exemption,
  LevelRecipe,
  Limit,
  Measure,
  Operation,
  Placement,
  Preset,
  Relation,
  Sky,
  Thread,
} from '../../core/level/schema'
import type { Kept } from '../../core/formats/level-file'
import { MEASURE_KINDS } from '../../core/level/measure'
import { KIND_NAMES } from '../../core/level/kinds'
import type { Part } from '../../core/level/part'
import { OWN_KIT } from '../../core/level/part'
import { PICTURE_TYPES } from '../../core/mesh/texture'

const bytea = customType<{ data: Uint8Array; driverData: Buffer }>({
  dataType: () => 'bytea',
  toDriver: bytes => Buffer.from(bytes),
  fromDriver: buffer => new Uint8Array(buffer),
})

const moment = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' })

/** Binary glTF files, named by what is in them. */
export const meshes = pgTable(
  'meshes',
  {
    hash: text().primaryKey(),
    glb: bytea().notNull(),
  },
  table => [check('meshes_hash_is_sha256', sql`${table.hash} ~ '^[0-9a-f]{64}$'`)],
)

/**
 * What stands for a mesh at a distance: binary glTF files with a mesh for each step; none of meshes that are small
 * already.
 */
export const meshSteps = pgTable('mesh_steps', {
  meshHash: text('mesh_hash')
    .primaryKey()
    .references(() => meshes.hash, { onDelete: 'cascade' }),
  glb: bytea(),
})

/** Pictures of textures, named by what is in them: each is here once, however many meshes show it. */
export const textures = pgTable(
  'textures',
  {
    hash: text().primaryKey(),
    type: text({ enum: PICTURE_TYPES }).notNull(),
    bytes: bytea().notNull(),
  },
  table => [check('textures_hash_is_sha256', sql`${table.hash} ~ '^[0-9a-f]{64}$'`)],
)

export const meshTextures = pgTable(
  'mesh_textures',
  {
    meshHash: text('mesh_hash')
      .notNull()
      .references(() => meshes.hash, { onDelete: 'cascade' }),
    textureHash: text('texture_hash')
      .notNull()
      .references(() => textures.hash),
  },
  table => [
    primaryKey({ columns: [table.meshHash, table.textureHash] }),
    index('mesh_textures_by_texture').on(table.textureHash),
  ],
)

/** The kit. */
export const parts = pgTable(
  'parts',
  {
    id: uuid().primaryKey(),
    name: text().notNull(),
    kind: text({ enum: ['piece', 'prop'] }).notNull(),
    tags: text().array().notNull(),
    meshHash: text('mesh_hash')
      .notNull()
      .references(() => meshes.hash),
    minX: doublePrecision('min_x').notNull(),
    minY: doublePrecision('min_y').notNull(),
    minZ: doublePrecision('min_z').notNull(),
    maxX: doublePrecision('max_x').notNull(),
    maxY: doublePrecision('max_y').notNull(),
    maxZ: doublePrecision('max_z').notNull(),
    triangles: integer().notNull(),
    pivotX: doublePrecision('pivot_x').notNull().default(0),
    pivotY: doublePrecision('pivot_y').notNull().default(0),
    pivotZ: doublePrecision('pivot_z').notNull().default(0),
    inKit: boolean('in_kit').notNull().default(true),
    kit: text().notNull().default(OWN_KIT),
    sockets: jsonb().$type<Part['sockets']>().notNull().default([]),
    lamps: jsonb().$type<Part['lamps']>().notNull().default([]),
    settlesAs: text('settles_as', { enum: ['hull', 'box'] })
      .notNull()
      .default('hull'),
    picture: bytea(),
    pictureType: text('picture_type', { enum: PICTURE_TYPES }),
    /** Place in the kit. */
    position: integer().notNull(),
    /** The revision of its workshop that its mesh was made of; null if it has none. */
    madeOf: integer('made_of'),
  },
  table => [
    check('parts_settles_as_known', sql`${table.settlesAs} in ('hull', 'box')`),
    check('parts_kind_known', sql`${table.kind} in ('piece', 'prop')`),
    index('parts_by_position').on(table.position),
  ],
)

/** Parts that are one entry of the kit; its table keeps its first name, for servers that are not new yet. */
export const kitEntries = pgTable(
  'variants',
  {
    id: uuid().primaryKey(),
    name: text().notNull(),
    kit: text().notNull(),
    by: text({ enum: ['turn', 'random'] }).notNull(),
    parts: uuid().array().notNull(),
  },
  table => [check('variants_by_known', sql`${table.by} in ('turn', 'random')`)],
)

export const levels = pgTable(
  'levels',
  {
    id: uuid().primaryKey(),
    name: text().notNull(),
    /** How many changes the level has had. */
    revision: integer().notNull().default(0),
    /** Counted along with every change, so that listing levels counts nothing. */
    placementCount: integer('placement_count').notNull().default(0),
    picture: bytea(),
    pictureType: text('picture_type', { enum: PICTURE_TYPES }),
    /** What the picture shows: the level as it was after so many changes. */
    pictureRevision: integer('picture_revision').notNull().default(0),
    createdAt: moment('created_at').notNull().defaultNow(),
    changedAt: moment('changed_at').notNull().defaultNow(),
    /** Set while a deleted level can still be brought back. */
    deletedAt: moment('deleted_at'),
    /**
     * The part that is made of what is in this level, if it is such a workshop: it is in no list, and goes with the
     * part.
     */
    partId: uuid('part_id').references(() => parts.id, { onDelete: 'cascade' }),
    /** Of the level file it came from, what is not known here. */
    kept: jsonb().$type<Kept[]>().notNull().default([]),
    /** The level that it is another try at, and the milestone at which it began; null of one of its own. */
    variantOf: uuid('variant_of').references((): AnyPgColumn => levels.id, { onDelete: 'set null' }),
    beganAt: uuid('began_at').references((): AnyPgColumn => milestones.id, { onDelete: 'set null' }),
    tags: text().array().notNull().default([]),
    /** Whether levels are begun from it. */
    startingPoint: boolean('starting_point').notNull().default(false),
    /** Set while it is put away. */
    archivedAt: moment('archived_at'),
  },
  table => [
    index('levels_variants').on(table.variantOf),
    uniqueIndex('levels_of_part').on(table.partId),
    check('levels_revision_counts_up', sql`${table.revision} >= 0`),
    index('levels_by_change').on(table.changedAt),
  ],
)

export const layers = pgTable(
  'layers',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    name: text().notNull(),
    color: text().notNull(),
    visible: boolean().notNull(),
    locked: boolean().notNull(),
    order: doublePrecision('sort_order').notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** Saved viewpoints. */
export const stations = pgTable(
  'stations',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    name: text().notNull(),
    eyeX: doublePrecision('eye_x').notNull(),
    eyeY: doublePrecision('eye_y').notNull(),
    eyeZ: doublePrecision('eye_z').notNull(),
    targetX: doublePrecision('target_x').notNull(),
    targetY: doublePrecision('target_y').notNull(),
    targetZ: doublePrecision('target_z').notNull(),
    fieldOfView: doublePrecision('field_of_view').notNull(),
    order: doublePrecision('sort_order').notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** Blocks by their shape, which their instances share. */
export const blocks = pgTable(
  'blocks',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    /** The shape's name and parameters, as the core's schema has them. */
    shape: jsonb().$type<Block['shape']>().notNull(),
    color: text().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** Kept measures. */
export const measures = pgTable(
  'measures',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    name: text().notNull(),
    order: doublePrecision('sort_order').notNull(),
    hidden: boolean().notNull(),
    kind: text({ enum: MEASURE_KINDS }).notNull(),
    ends: jsonb().$type<Measure['ends']>().notNull(),
    sides: jsonb().$type<Measure['sides']>().notNull(),
    connected: boolean().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** What is asked of a level by its check and its budgets. */
export const limits = pgTable(
  'limits',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    of: text().notNull(),
    off: boolean().notNull(),
    values: jsonb().$type<Limit['values']>().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** Findings that are left as they are. */
export const exemptions = pgTable(
  'exemptions',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    of: text().notNull(),
    things: jsonb().$type<Exemption['things']>().notNull(),
    amount: doublePrecision(),
    reason: text().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** The light around a level, by day and by night. */
export const skies = pgTable(
  'skies',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    of: text().$type<Sky['of']>().notNull(),
    color: text().notNull(),
    ground: text().notNull(),
    ambient: doublePrecision().notNull(),
    exposure: doublePrecision().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** Notes at places, each with what it begins with. */
export const threads = pgTable(
  'threads',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    at: jsonb().$type<Thread['at']>().notNull(),
    text: text().notNull(),
    by: text().notNull(),
    when: text('said_at').notNull(),
    done: boolean().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** What is said to notes. */
export const answers = pgTable(
  'answers',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    threadId: uuid('thread_id').notNull(),
    text: text().notNull(),
    by: text().notNull(),
    when: text('said_at').notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** What stays as it is to other things. */
export const relations = pgTable(
  'relations',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    held: uuid().notNull(),
    point: jsonb().$type<Relation['point']>().notNull(),
    holders: jsonb().$type<Relation['holders']>().notNull(),
    rule: jsonb().$type<Relation['rule']>().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** Numbers of forms, kept with the level. */
export const presets = pgTable(
  'presets',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    form: text().notNull(),
    name: text().notNull(),
    values: jsonb().$type<Preset['values']>().notNull(),
    picture: text(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

/** Steps kept as one with the level. */
export const recipes = pgTable(
  'recipes',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    name: text().notNull(),
    inputs: jsonb().$type<LevelRecipe['inputs']>().notNull(),
    steps: jsonb().$type<LevelRecipe['steps']>().notNull(),
  },
  table => [primaryKey({ columns: [table.levelId, table.id] })],
)

export const placements = pgTable(
  'placements',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    id: uuid().notNull(),
    parentId: uuid('parent_id'),
    order: doublePrecision('sort_order').notNull(),
    name: text().notNull(),
    kind: text({ enum: KIND_NAMES }).notNull(),
    partId: uuid('part_id').references(() => parts.id),
    blockId: uuid('block_id'),
    translationX: doublePrecision('translation_x').notNull(),
    translationY: doublePrecision('translation_y').notNull(),
    translationZ: doublePrecision('translation_z').notNull(),
    rotationX: doublePrecision('rotation_x').notNull(),
    rotationY: doublePrecision('rotation_y').notNull(),
    rotationZ: doublePrecision('rotation_z').notNull(),
    rotationW: doublePrecision('rotation_w').notNull(),
    scaleX: doublePrecision('scale_x').notNull(),
    scaleY: doublePrecision('scale_y').notNull(),
    scaleZ: doublePrecision('scale_z').notNull(),
    pivotX: doublePrecision('pivot_x').notNull(),
    pivotY: doublePrecision('pivot_y').notNull(),
    pivotZ: doublePrecision('pivot_z').notNull(),
    hidden: boolean().notNull(),
    locked: boolean().notNull(),
    layerId: uuid('layer_id'),
    /** The kind's own fields, as the core's schemas have them. */
    own: jsonb().$type<Placement['own']>().notNull().default({}),
  },
  table => [
    primaryKey({ columns: [table.levelId, table.id] }),
    foreignKey({
      name: 'placements_layer',
      columns: [table.levelId, table.layerId],
      foreignColumns: [layers.levelId, layers.id],
    }),
    foreignKey({
      name: 'placements_block',
      columns: [table.levelId, table.blockId],
      foreignColumns: [blocks.levelId, blocks.id],
    }),
    foreignKey({
      name: 'placements_parent',
      columns: [table.levelId, table.parentId],
      foreignColumns: [table.levelId, table.id],
    }),
    // The level stands first in the key alone: of a new level the database supposes that it has no rows, and would take
    // any other index that begins with it just as well, for every id that is looked up.
    index('placements_by_parent')
      .on(table.parentId, table.levelId)
      .where(sql`${table.parentId} is not null`),
    index('placements_by_part').on(table.partId),
    index('placements_by_block')
      .on(table.blockId, table.levelId)
      .where(sql`${table.blockId} is not null`),
    check(
      'placements_kind_known',
      sql`(${table.kind} = 'part') = (${table.partId} is not null) and (${table.kind} = 'block') = (${table.blockId} is not null) and ${table.kind} in (${sql.raw(KIND_NAMES.map(kind => `'${kind}'`).join(', '))})`,
    ),
    check('placements_size_not_zero', sql`${table.scaleX} <> 0 and ${table.scaleY} <> 0 and ${table.scaleZ} <> 0`),
    check('placements_not_own_parent', sql`${table.parentId} <> ${table.id}`),
  ],
)

/** Named states of levels, to come back to. */
export const milestones = pgTable(
  'milestones',
  {
    id: uuid().primaryKey(),
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    /** The level as it was after so many changes. */
    revision: integer().notNull(),
    name: text().notNull(),
    about: text().notNull(),
    made: text({ enum: WAYS_MADE }).notNull(),
    by: text().notNull(),
    /** Who that is, if it is proven. */
    personId: uuid('person_id').references(() => people.id),
    madeAt: moment('made_at').notNull().defaultNow(),
    /** Set while a deleted one can still be brought back. */
    deletedAt: moment('deleted_at'),
    picture: bytea(),
    pictureType: text('picture_type', { enum: PICTURE_TYPES }),
    /**
     * The level as it was, as `core/level/packed` has it, compressed by gzip; null until that was written: till then
     * the journal knows it.
     */
    content: bytea(),
    placementCount: integer('placement_count'),
  },
  table => [
    index('milestones_of_level').on(table.levelId, table.madeAt),
    check('milestones_made_known', sql`${table.made} in ('by hand', 'day', 'large')`),
  ],
)

/** Sessions that were ended before their time, by the names in their cookies. */
export const endedSessions = pgTable('ended_sessions', {
  id: text().primaryKey(),
  endedAt: moment('ended_at').notNull().defaultNow(),
})

/** People by name, who come in by a key of their own or by the identity provider. */
export const people = pgTable(
  'people',
  {
    id: uuid().primaryKey(),
    name: text().notNull(),
    role: text({ enum: ROLES }).notNull(),
    /** SHA-256 of the key; null for who comes by the provider, and for who was ended. */
    keyHash: text('key_hash').unique(),
    keyMadeAt: moment('key_made_at'),
    /** By which the provider knows them: its issuer and subject (OpenID Connect Core, 2). */
    subject: text().unique(),
    madeAt: moment('made_at').notNull().defaultNow(),
    endedAt: moment('ended_at'),
  },
  table => [
    uniqueIndex('people_by_name')
      .on(sql`lower(${table.name})`)
      .where(sql`${table.endedAt} is null`),
    check('people_role_known', sql`${table.role} in ('look', 'note', 'work', 'keep')`),
  ],
)

/** How people work, as the page has it: nobody looks into it here. */
export const personSettings = pgTable('person_settings', {
  personId: uuid('person_id')
    .primaryKey()
    .references(() => people.id, { onDelete: 'cascade' }),
  version: integer().notNull(),
  settings: jsonb().$type<KeptSettings['settings']>().notNull(),
})

/** What people may do in single levels, where that is less. */
export const levelRoles = pgTable(
  'level_roles',
  {
    personId: uuid('person_id')
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    role: text({ enum: LEVEL_ROLES }).notNull(),
  },
  table => [
    primaryKey({ columns: [table.personId, table.levelId] }),
    index('level_roles_by_level').on(table.levelId),
    check('level_roles_known', sql`${table.role} in ('none', 'look', 'note', 'work')`),
  ],
)

/** What keepers did. */
export const keeperLog = pgTable('keeper_log', {
  id: integer().primaryKey().generatedAlwaysAsIdentity(),
  at: moment('at').notNull().defaultNow(),
  /** Who did it: the name, and the person if that is proven. */
  by: text().notNull(),
  personId: uuid('person_id').references(() => people.id),
  did: text().$type<KeptDeed>().notNull(),
  to: text().notNull(),
  now: text().notNull(),
})

/** The journal: every change of a level, in order. Its texts stay as they came, since nobody looks into them. */
export const changes = pgTable(
  'changes',
  {
    levelId: uuid('level_id')
      .notNull()
      .references(() => levels.id, { onDelete: 'cascade' }),
    revision: integer().notNull(),
    /** Made by the sender, so that sending again is noticed. */
    id: uuid().notNull(),
    label: text().notNull(),
    author: text().notNull(),
    /** Who that is, if it is proven. */
    personId: uuid('person_id').references(() => people.id),
    operations: json().$type<Operation[]>().notNull(),
    /** What takes it back; null for changes from before this was kept. */
    inverse: json().$type<Operation[]>(),
    madeAt: moment('made_at').notNull().defaultNow(),
  },
  table => [
    primaryKey({ columns: [table.levelId, table.revision] }),
    uniqueIndex('changes_once').on(table.levelId, table.id),
  ],
)

/**
 * Files that another process has made than the one that answers with them, in pieces, until they have been sent. The
 * table is not logged (see its migration): what is lost with the database is made again.
 */
export const madeFiles = pgTable(
  'made_files',
  {
    jobId: uuid('job_id').notNull(),
    piece: integer('piece').notNull(),
    bytes: bytea('bytes').notNull(),
    madeAt: moment('made_at').notNull().defaultNow(),
  },
  table => [primaryKey({ columns: [table.jobId, table.piece] }), index('made_files_made_at').on(table.madeAt)],
)
