import isEqual from 'fast-deep-equal'
import type { Settings } from '~/editor/settings-schema'
import { readSettings } from '~/editor/settings-schema'
import { lineOf, parseJson } from '~/editor/json-file'
import { PORTABLE } from './sections'

// Settings as a file of their own: JSON with a version, and all that is set on the page of settings.

const FORMAT = 'handy-grid settings'
const VERSION = 1
/** Brings what a version has written to the next, from version 1 on. */
const MIGRATIONS: readonly ((settings: Record<string, unknown>) => Record<string, unknown>)[] = []

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
  const brought = MIGRATIONS.slice(version - 1).reduce((each, migrate) => migrate(each), settings)
  const read = readSettings(brought)
  for (const [key, given] of Object.entries(brought)) {
    if (!PORTABLE.includes(key as keyof Settings)) return refused(`There is no setting “${key.slice(0, 60)}”.`, key)
    // What is read otherwise than it was written made no sense.
    if (!agrees(given, read[key as keyof Settings])) return refused(`“${key}” makes no sense.`, key)
  }
  const some = Object.keys(brought) as (keyof Settings)[]
  return { ok: true, settings: Object.fromEntries(some.map(key => [key, read[key]])) as Portable }
}
