import type { Finding } from '~~/core/check/check'
import { checkOf } from '~~/core/check/kinds'
import { saveCsv } from '~/editor/saving/save-csv'
import { saveFile } from '~/editor/saving/save-file'

/** Gives the person a list of findings as a file. */
export function saveFindings(
  findings: readonly Finding[],
  as: 'csv' | 'json',
  { say, name }: { say: (finding: Finding) => string; name: (id: string) => string },
): void {
  const rows = findings.map(finding => ({
    kind: finding.of,
    severity: checkOf(finding.of).severity,
    says: say(finding),
    amount: finding.amount,
    things: [...finding.things],
    names: finding.things.map(name),
    at: finding.at,
    left: finding.left ?? null,
  }))
  if (as === 'json')
    return saveFile(new Blob([JSON.stringify(rows, null, 2)], { type: 'application/json' }), 'findings.json')
  const head = [
    'kind',
    'severity',
    'says',
    'amount',
    'thing',
    'name',
    'other thing',
    'other name',
    'x',
    'y',
    'z',
    'left because',
  ]
  saveCsv(
    [
      head,
      ...rows.map(({ kind, severity, says, amount, things, names, at, left }) => [
        kind,
        severity,
        says,
        amount ?? '',
        things[0] ?? '',
        names[0] ?? '',
        things[1] ?? '',
        names[1] ?? '',
        ...at,
        left ?? '',
      ]),
    ],
    'findings.csv',
  )
}
