import Papa from 'papaparse'
import { saveFile } from './save-file'

/**
 * Gives the person a table as comma-separated values (RFC 4180). Cells that a spreadsheet would take for formulas are
 * made text.
 */
export function saveCsv(rows: readonly (readonly (string | number)[])[], name: string): void {
  saveFile(
    new Blob(
      [
        Papa.unparse(
          rows.map(row => [...row]),
          { escapeFormulae: true },
        ),
      ],
      { type: 'text/csv' },
    ),
    name,
  )
}
