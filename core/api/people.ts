import { z } from 'zod'
import type { Role } from './roles'
import { roleSchema } from './roles'
import { idSchema, nameSchema, quatSchema, scaleSchema, vec3Schema } from '../level/fields'

// What people who have one level open see of each other. It goes by the same sockets as how far the level is, is kept
// nowhere, and may be old by the time it comes: nothing of a level ever follows from it.

/** How many colours people are told apart by, besides their letters. */
export const MARKS = 8
/** Things that others are told somebody has picked, or drags, at the most. */
export const [MOST_PICKED, MOST_DRAGGED] = [100, 14]
/** Things, groups and layers that one person may reserve. */
export const MOST_RESERVED = 100
/** Milliseconds for which they stay reserved after that person has left. */
export const RESERVED_AFTER = 5 * 60_000
/** Milliseconds between two messages of a page about the person before it, at the least. */
export const SAID_EVERY = 80
/** Bytes of what a page says at a time, at the most. */
export const LONGEST_SAID = 16 * 1024
/** Messages that are taken of a page, in so many seconds. */
export const SAID_AT_MOST = { points: 60, duration: 2 }

/** A thing as somebody drags it: where it would be in the axes of what it hangs from. */
const draggedSchema = z.strictObject({
  id: idSchema,
  parentId: idSchema.nullable(),
  translation: vec3Schema,
  rotation: quatSchema,
  scale: scaleSchema,
  pivot: vec3Schema,
  /** The part it shows, of one that is not in the level yet; null for one that is. */
  partId: idSchema.nullable(),
})
export type Dragged = z.infer<typeof draggedSchema>

/** One to three letters or digits. */
export const initialsSchema = z.string().regex(/^[\p{L}\p{N}]{0,3}$/u, 'must be up to three letters')

/** What a page says of the person before it. */
export const presenceSchema = z.strictObject({
  name: nameSchema,
  /** As they want to be marked; none for the first letters of the name. */
  initials: initialsSchema.optional(),
  /** Which of the colours. */
  mark: z
    .int()
    .min(0)
    .max(MARKS - 1),
  picked: z.array(idSchema).max(MOST_PICKED),
  /** What is dragged right now, and of how many things it is a part. */
  drags: z.strictObject({ things: z.array(draggedSchema).max(MOST_DRAGGED), of: z.int().min(1) }).nullable(),
  /** Where the person looks from and to; null while nothing is looked at. */
  view: z.strictObject({ eye: vec3Schema, target: vec3Schema }).nullable(),
  /** Things, groups and layers that the person asks the others to leave alone. */
  reserved: z.array(idSchema).max(MOST_RESERVED),
})
export type Presence = z.infer<typeof presenceSchema>

const callSchema = z.strictObject({
  /** Who is called; null for all. */
  to: idSchema.nullable(),
  at: vec3Schema,
  from: vec3Schema,
})
/** "Look here": a point, and where it is looked at from. */
export type Call = z.infer<typeof callSchema>

/** What a page may say: what is another than before of the person, or a call. */
export const saidSchema = z.union([
  z.strictObject({ here: presenceSchema.partial() }),
  z.strictObject({ call: callSchema }),
])
export type Said = z.infer<typeof saidSchema>

/** What is new of somebody; who is not known yet comes whole. */
export const personUpdateSchema = presenceSchema
  .partial()
  .extend({
    id: idSchema,
    role: roleSchema.optional(),
    /** Whether the name is proven, by a key of their own or by the identity provider. */
    proven: z.boolean().optional(),
    /** Whether the person has left, and is known only for what they have reserved. */
    away: z.boolean().optional(),
  })
  .strict()
export type PersonUpdate = z.infer<typeof personUpdateSchema>

/**
 * Somebody who has the level open, or has left it a moment ago. What they may do, a proven name and whether they are
 * away are the server's word, the rest their page's.
 */
export type Person = Presence & { id: string; role: Role; proven: boolean; away: boolean }

/** What is told of somebody who leaves, and has reserved something. */
export const AWAY = { picked: [], drags: null, view: null, away: true } satisfies Partial<Person>

/** What somebody is before their page has said anything. */
const UNKNOWN: Omit<Person, 'id' | 'name' | 'role'> = {
  mark: 0,
  picked: [],
  drags: null,
  view: null,
  reserved: [],
  proven: false,
  away: false,
}

/** What pages are told of each other. */
export const peopleMessageSchema = z.strictObject({
  level: idSchema,
  /** The one before the page it is told to; only said first, and then `people` are all there are. */
  you: idSchema.optional(),
  people: z.array(personUpdateSchema),
  gone: z.array(idSchema),
})
export type PeopleMessage = z.infer<typeof peopleMessageSchema>

export const calledSchema = z.strictObject({ level: idSchema, by: idSchema, call: callSchema })
export type Called = z.infer<typeof calledSchema>

/** Somebody with what is new of them; null as long as not all is known that has to be. */
export function withUpdate(known: Person | undefined, update: PersonUpdate): Person | null {
  if (known) return { ...known, ...update }
  const { name, role } = update
  return name === undefined || role === undefined ? null : { ...UNKNOWN, ...update, name, role }
}

/** People with what a page is told of them. @returns a new map, without the one before the page itself */
export function withUpdates(
  known: ReadonlyMap<string, Person>,
  { you, people, gone }: PeopleMessage,
  self = you,
): Map<string, Person> {
  const after = new Map(you === undefined ? known : [])
  for (const update of people) {
    const person = update.id === self ? null : withUpdate(after.get(update.id), update)
    if (person) after.set(update.id, person)
  }
  for (const id of gone) after.delete(id)
  return after
}

/**
 * Letters for people, each its own: the initials they want, else as many of the name's first as it takes, and then a
 * number.
 */
export function lettersOf(people: Iterable<{ id: string; name: string; initials?: string }>): Map<string, string> {
  const letters = new Map<string, string>()
  const taken = new Set<string>()
  for (const { id, name, initials } of [...people].sort((a, b) => (a.id < b.id ? -1 : 1))) {
    const [first = '?', ...rest] = [...name.toLocaleUpperCase('en')].filter(each => /[\p{L}\p{N}]/u.test(each))
    const second = rest.map(each => first + each.toLocaleLowerCase('en'))
    const numbered = Array.from({ length: taken.size + 1 }, (_, i) => `${first}${i + 2}`)
    const letter = [...(initials ? [initials] : []), first, ...second, ...numbered].find(each => !taken.has(each))!
    taken.add(letter)
    letters.set(id, letter)
  }
  return letters
}
