import { countedOf } from '~~/core/units/plural'

/** Bytes as people read them. */
export const printBytes = (bytes: number) =>
  bytes < 1000 ? `${bytes} B` : bytes < 1e6 ? `${(bytes / 1000).toFixed(0)} kB` : `${(bytes / 1e6).toFixed(1)} MB`

/** Counts with what they are of: "12 nodes, 3 meshes"; a scale is one to so many. */
export function printCounts(counts: Readonly<Record<string, number>>): string {
  return Object.entries(counts)
    .map(([what, count]) => (what === 'scale' ? `1:${count}` : countedOf(count, what)))
    .join(', ')
}
