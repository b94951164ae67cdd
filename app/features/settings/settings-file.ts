import isEqual from 'fast-deep-equal'
import type { Settings } from '~/editor/settings-schema'
import { byWidth, readSettings } from '~/editor/settings-schema'
import { lineOf, parseJson } from '~/editor/json-file'
import { PORTABLE } from './sections'

// Settings as a file of their own: JSON with a version, and all that is set on the page of settings.

const FORMAT = 'handy-grid settings'
/** Of what is set, as it is written now. */
export const VERSION = 2
/** Brings what a version has written to the next, from version 1 on. */
const MIGRATIONS: readonly ((settings: Record<string, unknown>) => Record<string, unknown>)[] = [
  // Panels are remembered by the width of the window.
  byWidth,
]

/** The name that such a file has. */
export const SETTINGS_FILE = 'handy-grid-settings.json'
/** Bytes of a file of settings, at most. */
export const LARGEST_SETTINGS = 1_000_000

export type Portable = Partial<Pick<Settings, (typeof PORTABLE)[number]>>
/** What a file says; or what is wrong with it, and where. */
export type SettingsRead = { ok: true; settings: Portable } | { ok: false; error: string }

/** What goes along of all settings. */
export const portableOf = (settings: Settings): Portable =>
  Object.fromEntries(PORTABLE.map(key => [key, settings[key]])) as Portable

export const writeSettings = (settings: Portable): string =>
  `${JSON.stringify({ format: FORMAT, version: VERSION, settings }, null, 2)}\n`

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Whether what was written says the same as what was read of it; of what belongs together some is enough. */
function agrees(given: unknown, read: unknown): boolean {
  if (!isRecord(given) || !isRecord(read)) return isEqual(given, read)
  // As deep as settings are, however deep the file is.
  return Object.entries(given).every(([key, value]) => agrees(value, read[key]))
}

/**
 * Reads what `writeSettings` has written, also an earlier version, or somebody by hand; some of all settings are
 * enough. What makes no sense is refused with its line.
 *
 * @example
 * readSettingsFile(writeSettings({ unit: 'cm' })) // { ok: true, settings: { unit: 'cm' } }
 */
export function readSettingsFile(text: string): SettingsRead {
  if (text.length > LARGEST_SETTINGS) return { ok: false, error: 'It is too long to be a file of settings.' }
  const json = parseJson(text)
  if (!json.ok) return json
  const refused = (error: string, name?: string): SettingsRead => {
    const line = lineOf(text, name)
    return { ok: false, error: `${error}${line ? ` (line ${line})` : ''}` }
  }
  if (!isRecord(json.value) || json.value.format !== FORMAT) return refused('It is no file of settings.', 'format')
  const { version, settings } = json.value
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1)
    return refused('It has no version.', 'version')
  if (version > VERSION) return refused('It is of a newer version of this program.', 'version')
  if (!isRecord(settings)) return refused('It has no settings.', 'settings')
  const { settings: made, wrong } = settingsFrom(version, settings, PORTABLE)
  const [first] = wrong
  return first ? refused(first.why, first.key) : { ok: true, settings: made }
}

/**
 * Settings of some version as they are now, and what of them makes no sense here.
 *
 * @param known those that may be among them
 */
export function settingsFrom<K extends keyof Settings>(
  version: number,
  settings: Record<string, unknown>,
  known: readonly K[],
): { settings: Partial<Pick<Settings, K>>; wrong: { key: string; why: string }[] } {
  const brought = MIGRATIONS.slice(version - 1).reduce((each, migrate) => migrate(each), settings)
  const read = readSettings(brought)
  const made: Partial<Pick<Settings, K>> = {}
  const wrong: { key: string; why: string }[] = []
  for (const [key, given] of Object.entries(brought)) {
    const its = known.find(each => each === key)
    if (its === undefined) wrong.push({ key, why: `There is no setting “${key.slice(0, 60)}”.` })
    // What is read otherwise than it was written made no sense.
    else if (!agrees(given, read[its])) wrong.push({ key, why: `“${key}” makes no sense.` })
    else made[its] = read[its]
  }
  return { settings: made, wrong }
}
