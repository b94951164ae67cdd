/** Row, column and layer of a copy. What stands in one line has columns alone. */
export type CopyPlace = readonly [row: number, column: number, layer: number]

/** What a copy is of its row, or of its path. */
export type CopyPart = 'first' | 'middle' | 'last' | 'corner'

/** The places and keys of a rule's copies, each by its index. A key names the same copy however the counts change. */
export type CopyKeys = {
  count: number
  at: (index: number) => CopyPlace
  /** Whether a copy begins or ends its row or path, or stands at a corner of one. */
  partAt: (index: number) => CopyPart
  keyAt: (index: number) => string
  /** @returns the copy of that name; null if there is none at present */
  indexOf: (key: string) => number | null
}

/** Copies in one line: a key is the copy's number. */
export function lineKeys(count: number): CopyKeys {
  return {
    count,
    at: index => [0, index, 0],
    partAt: index => (index === 0 ? 'first' : index === count - 1 ? 'last' : 'middle'),
    keyAt: String,
    indexOf: key => checked(numbersOf(key, 1), count, ([index]) => index!),
  }
}

/**
 * Copies in rows of different lengths: a key is `row,column`.
 *
 * @param starts the index of each row's first copy, ascending
 */
export function rowKeys(starts: readonly number[], count: number): CopyKeys {
  const endOf = (row: number) => starts[row + 1] ?? count
  const at = (index: number): CopyPlace => {
    const row = lastAtMost(starts, index)
    return [row, index - starts[row]!, 0]
  }
  return {
    count,
    at,
    partAt: index => {
      const [row, column] = at(index)
      return column === 0 ? 'first' : index === endOf(row) - 1 ? 'last' : 'middle'
    },
    keyAt: index => at(index).slice(0, 2).join(','),
    indexOf: key =>
      checked(numbersOf(key, 2), count, ([row, column]) =>
        row! < starts.length && starts[row!]! + column! < endOf(row!) ? starts[row!]! + column! : count,
      ),
  }
}

/** Copies in rows, columns and layers: a key is `row,column,layer`. Columns run fastest, then layers. */
export function gridKeys(columns: number, layers: number, rows: number): CopyKeys {
  const count = columns * layers * rows
  const at = (index: number): CopyPlace => [
    Math.floor(index / (columns * layers)),
    index % columns,
    Math.floor(index / columns) % layers,
  ]
  return {
    count,
    at,
    partAt: index => (index % columns === 0 ? 'first' : index % columns === columns - 1 ? 'last' : 'middle'),
    keyAt: index => at(index).join(','),
    indexOf: key =>
      checked(numbersOf(key, 3), count, ([row, column, layer]) =>
        row! < rows && column! < columns && layer! < layers ? (row! * layers + layer!) * columns + column! : count,
      ),
  }
}

/** The place a key names, whether or not there is a copy at present. */
export function placeOfKey(key: string): CopyPlace {
  const [first = 0, column, layer = 0] = key.split(',').map(Number)
  return column === undefined ? [0, first, 0] : [first, column, layer]
}

/** The whole numbers of a key as people would write them; null if it is none of so many. */
export function numbersOf(key: string, many: number): number[] | null {
  const numbers = key.split(',').map(Number)
  return numbers.length === many
    && numbers.join(',') === key
    && numbers.every(number => Number.isSafeInteger(number) && number >= 0)
    ? numbers
    : null
}

/** The index that numbers name, if it is one of `count`; null else. */
export function checked(
  numbers: number[] | null,
  count: number,
  indexOf: (numbers: number[]) => number,
): number | null {
  const index = numbers === null ? count : indexOf(numbers)
  return index < count ? index : null
}

/** The place of the last of ascending numbers that is not above another. */
export function lastAtMost(numbers: readonly number[], most: number): number {
  let [low, high] = [0, numbers.length - 1]
  while (low < high) {
    const middle = Math.ceil((low + high) / 2)
    if (numbers[middle]! <= most) low = middle
    else high = middle - 1
  }
  return low
}
