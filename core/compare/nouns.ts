import type { Level } from '../level/level'
import type { RecordName } from '../level/schema'

type AnyRecord = { id: string } & Record<string, unknown>

/** Characters of a text that stands for what has no name. */
const LONGEST = 60

/** What each kind of record is called. */
export const RECORD_NOUNS: Record<RecordName | 'placement', string> = {
  placement: 'thing',
  layer: 'layer',
  station: 'station',
  block: 'block',
  measure: 'measure',
  limit: 'limit',
  exemption: 'finding that was left',
  sky: 'sky',
  thread: 'note',
  answer: 'answer',
  relation: 'what is kept',
  preset: 'preset',
  recipe: 'recipe',
}

/** What a record is called in its level, whatever its kind. */
export function nounOf(level: Level, record: RecordName | null, of: AnyRecord): string {
  const { name, text, reason, held, shape } = of as { name?: string; text?: string; reason?: string; held?: string } & {
    shape?: { type?: string }
  }
  const said = name ?? text ?? reason
  if (said !== undefined) return said.length > LONGEST ? `${said.slice(0, LONGEST)} …` : said
  if (record === 'relation') return level.get(held!)?.name ?? 'something that is gone'
  return shape?.type ?? (typeof of.of === 'string' ? of.of : RECORD_NOUNS[record ?? 'placement'])
}
