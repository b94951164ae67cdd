/** A piece of a typed text, and where in it. `glued`: nothing stands between it and what is before. */
export type Token = { at: number; end: number; glued: boolean } & (
  | { is: 'number'; value: number; isWhole: boolean }
  /** One of the characters that are a fraction by themselves. */
  | { is: 'part'; value: number }
  | { is: 'unit'; name: string }
  | { is: 'sign'; sign: '+' | '-' | '*' | '/' | '^' | '(' | ')' }
  | { is: 'end' }
)

/** Why a typed text is refused, in words for who typed it, and which part of it is at fault. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly at: number,
    readonly end: number,
  ) {
    super(message)
  }
}

const SIGNS: Record<string, '+' | '-' | '*' | '/' | '^' | '(' | ')'> = {
  '+': '+',
  '-': '-',
  '−': '-',
  '–': '-',
  '*': '*',
  '×': '*',
  '·': '*',
  '/': '/',
  '÷': '/',
  '⁄': '/',
  '^': '^',
  '(': '(',
  ')': ')',
}
/** The marks that typewriters, keyboards and typesetters use for feet and inches, minutes and seconds. */
const MARKS: Record<string, string> = {
  "'": "'",
  '′': "'",
  '’': "'",
  '‘': "'",
  '"': '"',
  '″': '"',
  '”': '"',
  '“': '"',
  '°': '°',
  '%': '%',
}

/** Characters of a typed sum. */
const LONGEST = 1000
const SPACE = /\s+/y
const NUMBER = /(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+-]?\d+)?/iy
const WORD = /\p{L}+/uy
/** After a number: it has two decimal marks, or one that separates thousands. */
const SECOND_MARK = /[.,]\d/y

/** Takes a text apart. @throws Refused with the place of what belongs to no number, unit or sign */
export function tokens(text: string): Token[] {
  if (text.length > LONGEST) throw new Refused('This is too long for a number.', 0, text.length)
  const found: Token[] = []
  let at = 0
  const match = (pattern: RegExp) => {
    pattern.lastIndex = at
    return pattern.exec(text)?.[0]
  }
  while (at < text.length) {
    const space = match(SPACE)
    if (space) at += space.length
    if (at === text.length) break
    const place = { at, glued: at > 0 && !space }
    const number = match(NUMBER)
    if (number) {
      at += number.length
      if (match(SECOND_MARK)) throw new Refused('Use one decimal mark, without thousands separators.', place.at, at)
      found.push({
        is: 'number',
        value: Number(number.replace(',', '.')),
        isWhole: /^\d+$/.test(number),
        ...place,
        end: at,
      })
      continue
    }
    const character = String.fromCodePoint(text.codePointAt(at)!)
    // The compatibility form of ½ is 1⁄2 (Unicode, chapter 22.3, from memory).
    const [above, below] = character.normalize('NFKC').split('⁄')
    const word = match(WORD)
    at += word?.length ?? (text.startsWith("''", at) ? 2 : character.length)
    if (below) found.push({ is: 'part', value: Number(above) / Number(below), ...place, end: at })
    else if (word) found.push({ is: 'unit', name: word.toLowerCase(), ...place, end: at })
    else if (at - place.at === 2 && character === "'") found.push({ is: 'unit', name: '"', ...place, end: at })
    else if (MARKS[character]) found.push({ is: 'unit', name: MARKS[character], ...place, end: at })
    else if (SIGNS[character]) found.push({ is: 'sign', sign: SIGNS[character], ...place, end: at })
    else throw new Refused(`“${character}” is not understood here.`, place.at, at)
  }
  found.push({ is: 'end', at: text.length, end: text.length, glued: false })
  return found
}
