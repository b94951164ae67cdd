import { readdirSync, readFileSync } from 'node:fs'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'
import { fieldWord, placeInWords } from '../../core/level/field-words'
import { placementFieldsSchema } from '../../core/level/schema'
import { withExceptions } from '../../core/scene/copies'
import { bareView } from '../../core/scene/level-view'
import { RULES } from '../../core/arrange/rules'
import { copyId } from '../../core/scene/copy-id'
import { testId, testPlacement } from '../support'

// Nobody should have to know how the program is built to read what it says.

/** Names as they stand in code, and what stands where something was not there. */
const INNER = /\b[a-z]+[A-Z]\w*\b|\b(?:undefined|null|NaN|UUID|jsonb)\b|\[object/
/** Words that are written so outside of code as well. */
const OUTSIDE = /glTF|WebP|iPad/g
/** Messages about files name what stands in the file. */
const ABOUT_FILES = /GlbError|FormatError|ZipError|RangeError|TypeError|ApiError|HTTPError|createError|LevelMeshError/

function sources(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter(name => /\.(?:ts|vue)$/.test(name) && !/\.test\.ts$|\.d\.ts$/.test(name))
    .map(name => `${folder}/${name}`)
}

/** The texts that somebody may be told by a file: what errors, notices, readouts and refusals say. */
function told(path: string): { text: string; line: number }[] {
  const whole = readFileSync(path, 'utf8')
  const code = path.endsWith('.vue') ? (/<script setup[^>]*>([\s\S]*?)<\/script>/.exec(whole)?.[1] ?? '') : whole
  const file = ts.createSourceFile(path, code, ts.ScriptTarget.Latest, true)
  const found: { text: string; line: number }[] = []
  const take = (node: ts.Node): void => {
    if (
      ts.isStringLiteral(node)
      || ts.isNoSubstitutionTemplateLiteral(node)
      || ts.isTemplateHead(node)
      || ts.isTemplateMiddle(node)
      || ts.isTemplateTail(node)
    ) {
      found.push({ text: node.text, line: file.getLineAndCharacterOfPosition(node.pos).line + 1 })
    }
    // What is asked or looked up on the way to a text is not said.
    if (
      ts.isBinaryExpression(node)
      && node.operatorToken.kind !== ts.SyntaxKind.PlusToken
      && node.operatorToken.kind !== ts.SyntaxKind.QuestionQuestionToken
    )
      return
    if (ts.isElementAccessExpression(node)) return
    ts.forEachChild(node, take)
  }
  const visit = (node: ts.Node): void => {
    if (
      ts.isNewExpression(node)
      && /Error$/.test(node.expression.getText())
      && !ABOUT_FILES.test(node.expression.getText())
    ) {
      // The first of a change's error is its code, the second where it is.
      const about = node.expression.getText() === 'ChangeError' ? node.arguments?.slice(2) : node.arguments
      about?.forEach(take)
    } else if (ts.isCallExpression(node) && /(?:^|\.)tell$/.test(node.expression.getText()))
      node.arguments.forEach(take)
    else if (
      ts.isPropertyAssignment(node)
      && ['message', 'explains', 'notes', 'remarks', 'hint', 'does', 'says'].includes(node.name.getText())
    )
      take(node.initializer)
    ts.forEachChild(node, visit)
  }
  visit(file)
  return found
}

describe('what people are told', () => {
  it('names nothing by the name it has in code: every error, notice, hint and refusal in the source', () => {
    const all = ['core', 'app']
      .flatMap(sources)
      .flatMap(path => told(path).map(({ text, line }) => ({ text, at: `${path}:${line}` })))
    expect(all.length).toBeGreaterThan(300)
    expect(
      all.filter(({ text }) => INNER.test(text.replace(OUTSIDE, ''))).map(({ text, at }) => `${at} ${text}`),
    ).toEqual([])
  })

  it('calls every field of a placement by a word of its own', () => {
    for (const field of Object.keys(placementFieldsSchema.shape)) expect(fieldWord(field)).not.toMatch(INNER)
    expect(placeInWords(['own', 'rule', 'fieldOfView', 0])).toBe('field of view')
  })

  it('says in words what one copy cannot have, whatever is asked of it', () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: { rule: { ...RULES.line.first, count: 3 } } }),
      testPlacement(2, { kind: 'part', partId: testId(99), parentId: testId(1) }),
    ])
    const copy = copyId(testId(1), '1')
    for (const field of Object.keys(placementFieldsSchema.shape).filter(
      name => !['translation', 'rotation', 'scale', 'hidden'].includes(name),
    )) {
      let message = ''
      try {
        withExceptions(level, [{ do: 'put', id: copy, fields: { [field]: testId(7) } }])
      } catch (error) {
        message = (error as Error).message
      }
      expect(message).toMatch(/^One copy cannot have a [a-z ]+ of its own\. Release it first/)
    }
  })
})
