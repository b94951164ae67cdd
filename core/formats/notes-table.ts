import Papa from 'papaparse'
import { z } from 'zod'
import { notesOf } from '../measure/notes'
import type { LevelView } from '../scene/level-view'
import { flag } from './out/scope'

/** How notes are handed over. */
export const notesOptionsSchema = z.object({
  /** Those that are done as well. */
  done: flag(true),
})

const COLUMNS = ['note', 'answer', 'by', 'when', 'text', 'done', 'on', 'x (m)', 'y (m)', 'z (m)']

/**
 * The notes of a level as a table (RFC 4180): a row for what each begins with and one for each answer, numbered; where
 * it is in the world, in metres. Cells that a spreadsheet would take for formulas are made text.
 *
 * @returns the table, and how many notes and answers are in it
 */
export function notesTable(
  level: LevelView,
  options: z.output<typeof notesOptionsSchema>,
): { csv: string; notes: number; answers: number } {
  const notes = notesOf(level).filter(({ thread }) => options.done || !thread.done)
  const rows = notes.flatMap(({ thread, answers, at, on }, note) =>
    [thread, ...answers].map(({ by, when, text }, answer) => [
      note + 1,
      answer === 0 ? '' : answer,
      by,
      when,
      text,
      thread.done ? 'yes' : 'no',
      on ?? '',
      ...at.toArray().map(value => Number(value.toFixed(4)) || 0),
    ]),
  )
  return {
    csv: `${Papa.unparse([COLUMNS, ...rows], { escapeFormulae: true })}\r\n`,
    notes: notes.length,
    answers: rows.length - notes.length,
  }
}
