/** An axis of the level: X, Y or Z by number. */
export type LevelAxis = 0 | 1 | 2
export const LEVEL_AXES: readonly LevelAxis[] = [0, 1, 2]
/** Along which axis height is written; in the level itself it always lies along Y. */
export const HEIGHTS = ['y', 'z'] as const
export type Height = (typeof HEIGHTS)[number]

/** An axis of the level as it is written: its letter, and -1 where the written one points the other way. */
export type WrittenAxis = { axis: LevelAxis; letter: 'X' | 'Y' | 'Z'; sign: 1 | -1 }

const BY_HEIGHT: Record<Height, readonly WrittenAxis[]> = {
  y: [
    { axis: 0, letter: 'X', sign: 1 },
    { axis: 1, letter: 'Y', sign: 1 },
    { axis: 2, letter: 'Z', sign: 1 },
  ],
  // A quarter turn about X, as open formats turn one into the other: the axes stay those of the right hand.
  z: [
    { axis: 0, letter: 'X', sign: 1 },
    { axis: 2, letter: 'Y', sign: -1 },
    { axis: 1, letter: 'Z', sign: 1 },
  ],
}

/** How the axes of a level are written, with height along Y or Z. What is kept stays as it is. */
export class WrittenAxes {
  /** In the order in which they are written. */
  readonly inOrder: readonly WrittenAxis[]

  constructor(readonly height: Height) {
    this.inOrder = BY_HEIGHT[height]
  }

  of(axis: LevelAxis): WrittenAxis {
    return this.inOrder.find(each => each.axis === axis)!
  }

  letter(axis: LevelAxis): WrittenAxis['letter'] {
    return this.of(axis).letter
  }

  /** The letters of some axes in the order in which they are written. */
  letters(axes: readonly LevelAxis[]): string[] {
    return this.inOrder.filter(({ axis }) => axes.includes(axis)).map(({ letter }) => letter)
  }

  /** -1 for a number along an axis that is written the other way; 1 for all else, and for none. */
  sign(axis: LevelAxis | undefined): 1 | -1 {
    return axis === undefined ? 1 : this.of(axis).sign
  }

  /**
   * A label that has the letter of an axis of the level, with the letter that is written.
   *
   * @example
   * new WrittenAxes('z').label('Spacing Z', 2) // 'Spacing Y'
   */
  label(text: string, axis: LevelAxis | undefined): string {
    return axis === undefined ? text : text.replace(new RegExp(`\\b${'XYZ'[axis]}\\b`), this.letter(axis))
  }

  /** A text with the letters of axes in place of those of the level in brackets: "its [Y] dial". */
  text(text: string): string {
    return text.replace(/\[([XYZ])\]/g, (_, letter: string) => this.letter('XYZ'.indexOf(letter) as LevelAxis))
  }

  /** Three values along the axes of the level, in the order in which they are written. */
  sorted<T>(values: readonly T[]): T[] {
    return this.inOrder.map(({ axis }) => values[axis]!)
  }

  /** Three numbers along the axes of the level, as they are written. */
  numbers(values: readonly number[]): number[] {
    // + 0: no number is written as -0.
    return this.inOrder.map(({ axis, sign }) => values[axis]! * sign + 0)
  }

  /** Which axis of the level is written with a letter: the one that a key of that letter means. */
  written(letter: LevelAxis): LevelAxis {
    return this.inOrder[letter]!.axis
  }
}

export const AXES_WRITTEN: Record<Height, WrittenAxes> = { y: new WrittenAxes('y'), z: new WrittenAxes('z') }
