import type { Finding } from './check'
import type { Severity, Words } from './definition'
import { SEVERITIES } from './definition'
import { CHECK_NAMES, checkOf } from './kinds'
import type { CheckSite } from './site'
import { copyOf } from '../scene/copy-id'

/**
 * How many findings there are of each severity, and how many are left as they are; without those that are only told on
 * the side.
 */
export type FindingCounts = Record<Severity | 'left', number>

export function countFindings(findings: readonly Finding[]): FindingCounts {
  const counts: FindingCounts = { error: 0, warning: 0, note: 0, left: 0 }
  for (const { of, left } of findings)
    if (!checkOf(of).isAside) counts[left === undefined ? checkOf(of).severity : 'left']++
  return counts
}

/** The worst first: by severity, by kind, by how much; what is left comes last. */
export function inOrder(findings: readonly Finding[]): Finding[] {
  const rank = ({ of, left }: Finding) =>
    (left === undefined ? 0 : 1000) + SEVERITIES.indexOf(checkOf(of).severity) * 100 + CHECK_NAMES.indexOf(of)
  return [...findings].sort(
    (a, b) => rank(a) - rank(b) || Math.abs(b.amount ?? 0) - Math.abs(a.amount ?? 0) || (a.key < b.key ? -1 : 1),
  )
}

/** What something is called that findings are about. */
export function nameOfThing({ level, kit }: Pick<CheckSite, 'level' | 'kit'>, id: string): string {
  const copy = copyOf(id)
  if (copy && !level.has(id)) return `a copy of ${level.get(copy.arrangementId)?.name ?? 'something'}`
  return level.get(id)?.name ?? kit.part(id)?.name ?? 'something that is gone'
}

export const sayFinding = (finding: Finding, words: Words): string => checkOf(finding.of).says(finding, words)
