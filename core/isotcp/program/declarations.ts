import { namesFrom, type ValueName } from '../../tags/valueNames'
import type { Declared, Group, Program, TypeRef } from './declared'

/**
 * Declarations as IEC 61131-3 writes them (2.3.3 and 2.4.3): TYPE with structures, arrays, enumerations and names for
 * other types; VAR blocks, global or of a program, with or without an address. What else stands in the file is passed over.
 */

interface Token {
  text: string
  /** In capitals, for words of the language. */
  word: string
  line: number
}

const pattern = /\s+|\(\*[\s\S]*?\*\)|\/\/[^\n]*|\{[^}]*\}|"([^"\n]*)"|'[^'\n]*'|%[A-Za-z]+[\d.]+|[A-Za-z_]\w*|\d[\w#]*|\.\.|:=|[\s\S]/gy

/** A mistake in the file; reading goes on behind it. */
class Mistake extends Error {
  constructor(
    readonly line: number,
    problem: string,
  ) {
    super(problem)
  }
}

export const readDeclarations = (text: string): Program => new Reader(text).program()

const varWords = new Set(['VAR', 'VAR_GLOBAL', 'VAR_INPUT', 'VAR_OUTPUT', 'VAR_IN_OUT', 'VAR_TEMP', 'VAR_EXTERNAL'])
/** Those that live where they are declared, and can be read there. */
const lasting = new Set(['VAR', 'VAR_GLOBAL'])
const qualifiers = new Set(['RETAIN', 'NON_RETAIN', 'CONSTANT', 'PERSISTENT'])
const mostProblems = 200
const deepest = 30

class Reader {
  private tokens: Token[] = []
  /** With the number of tokens before it. */
  private comments: { after: number; line: number; text: string }[] = []
  private at = 0
  private found: Program = { types: new Map(), groups: [], problems: [] }

  constructor(text: string) {
    let line = 1
    for (const [whole, quoted] of text.matchAll(pattern)) {
      if (whole.startsWith('(*') || whole.startsWith('//')) this.noteComment(whole, line)
      else if (quoted !== undefined) this.tokens.push({ text: quoted, word: '', line })
      else if (!/^[\s{]/.test(whole)) this.tokens.push({ text: whole, word: whole.toUpperCase(), line })
      line += whole.split('\n').length - 1
    }
  }

  program(): Program {
    let owner = ''
    while (this.at < this.tokens.length) {
      const { word } = this.next()
      if (word === 'PROGRAM' || word === 'FUNCTION_BLOCK' || word === 'FUNCTION') owner = this.peek()?.text ?? ''
      else if (word === 'END_PROGRAM' || word === 'END_FUNCTION_BLOCK' || word === 'END_FUNCTION') owner = ''
      else if (word === 'TYPE') this.types()
      else if (varWords.has(word)) this.variables(word, owner)
    }
    return this.found
  }

  private noteComment(whole: string, line: number) {
    const text = (whole.startsWith('//') ? whole.slice(2) : whole.slice(2, -2)).trim().replace(/\s+/g, ' ')
    this.comments.push({ after: this.tokens.length, line, text })
  }

  /** What stands within a declaration, or behind it on the line of its end. */
  private commentOf(begin: number, lastLine: number): string {
    let low = 0
    let high = this.comments.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (this.comments[middle]!.after > begin) high = middle
      else low = middle + 1
    }
    const found = this.comments[low]
    if (!found || found.after > this.at) return ''
    return found.after < this.at || found.line === lastLine ? found.text : ''
  }

  private types() {
    this.until('END_TYPE', () => {
      const name = this.name()
      this.expect(':')
      this.found.types.set(name.toUpperCase(), this.type(0))
      this.passInitial()
    })
  }

  private variables(word: string, owner: string) {
    while (qualifiers.has(this.peek()?.word ?? '')) this.next()
    const group: Group = { name: owner, variables: [] }
    this.until('END_VAR', () => group.variables.push(...this.declarations(0)))
    if (lasting.has(word) && group.variables.length > 0) this.found.groups.push(group)
  }

  /** `a, b AT %MW4 : INT := 3; (* what it is *)` */
  private declarations(depth: number): Declared[] {
    const [begin, { line }] = [this.at, this.peek() ?? { line: 0 }]
    const names = [this.name()]
    while (this.peek()?.text === ',') {
      this.next()
      names.push(this.name())
    }
    const at = this.peek()?.word === 'AT' ? (this.next(), this.next().text) : null
    this.expect(':')
    const type = this.type(depth)
    const last = this.passInitial()
    const comment = this.commentOf(begin, last)
    return names.map((name) => ({ name, type, at, comment, line }))
  }

  private type(depth: number): TypeRef {
    if (depth > deepest) throw new Mistake(this.line, `types lie more than ${deepest} deep in each other`)
    const { text, word, line } = this.next()
    if (word === 'ARRAY') return this.array(depth)
    if (word === 'STRUCT') return this.struct(depth)
    if (text === '(') return this.enumeration()
    if (!/^\w+$/.test(text) && word !== '') throw new Mistake(line, `“${text}” stands where a type is due`)
    if (this.peek()?.text === '(' && !word.endsWith('STRING')) return { kind: 'named', name: word, length: null, names: this.states() }
    return { kind: 'named', name: text.toUpperCase(), length: this.length() }
  }

  /** `(standing, ramping := 5)`, as wide as an INT unless another type stands behind it or before it. */
  private enumeration(): TypeRef {
    this.at--
    const names = this.states()
    const base = this.peek()
    const isTyped = base !== undefined && /^[A-Z_]\w*$/.test(base.word) && !base.word.startsWith('END_')
    return { kind: 'named', name: isTyped ? this.next().word : 'INT', length: null, names }
  }

  /** What stands in parentheses: each counts on from the one before, unless it says its value (2.3.3.1). A range has none. */
  private states(): ValueName[] {
    const names: ValueName[] = []
    let value = 0
    for (const item of this.items()) {
      const [name, sign, ...literal] = item
      if (sign?.text === ':=') value = literalIn(literal.map(({ text }) => text).join(''))
      else if (sign) continue
      if (name && name.word !== '' && /^[A-Za-z_]/.test(name.text)) names.push({ value: value++, name: name.text })
    }
    return namesFrom(names)
  }

  /** From one parenthesis to its other, divided by commas. */
  private items(): Token[][] {
    const items: Token[][] = [[]]
    for (let depth = 0; this.at < this.tokens.length;) {
      const token = this.next()
      depth += token.text === '(' ? 1 : token.text === ')' ? -1 : 0
      if (depth === 0) break
      if (depth === 1 && token.text === ',') items.push([])
      else if (depth > 1 || token.text !== '(') items.at(-1)!.push(token)
    }
    return items
  }

  /** `STRING[20]` or `STRING(20)`. */
  private length(): number | null {
    const open = this.peek()?.text
    if (open !== '[' && open !== '(') return null
    this.next()
    const { text } = this.next()
    const close = open === '[' ? ']' : ')'
    const isLength = this.peek()?.text === close && /^\d+$/.test(text)
    while (this.at < this.tokens.length && this.next().text !== close);
    return isLength ? Number(text) : null
  }

  private array(depth: number): TypeRef {
    this.expect('[')
    const ranges: [number, number][] = []
    do {
      const from = this.whole()
      this.expect('..')
      ranges.push([from, this.whole()])
      if (this.peek()?.text !== ',') break
      this.next()
    } while (this.at < this.tokens.length)
    this.expect(']')
    this.expect('OF')
    return { kind: 'array', ranges, of: this.type(depth + 1) }
  }

  private struct(depth: number): TypeRef {
    const members: Declared[] = []
    this.until('END_STRUCT', () => members.push(...this.declarations(depth + 1)))
    return { kind: 'struct', members }
  }

  /** Up to the semicolon, over what a variable begins with. @returns the line of its end */
  private passInitial(): number {
    const [token] = [this.peek()]
    // the one behind END_STRUCT is often left out
    if (token && (token.word === 'END_TYPE' || token.word === 'END_STRUCT' || token.word === 'END_VAR')) return token.line
    while (this.at < this.tokens.length) {
      const { text, line } = this.next()
      if (text === ';') return line
    }
    return this.line
  }

  /** One after the other until the word that ends them; what cannot be read is told, and passed over. */
  private until(end: string, one: () => void) {
    while (this.at < this.tokens.length && this.peek()!.word !== end) {
      if (this.peek()!.text === ';') {
        this.next()
        continue
      }
      const before = this.at
      try {
        one()
      } catch (error) {
        if (!(error instanceof Mistake)) throw error
        if (this.found.problems.length < mostProblems) this.found.problems.push({ line: error.line, text: `${error.message}.` })
        if (this.at === before) this.next()
        while (this.at < this.tokens.length && this.peek()!.text !== ';' && !this.peek()!.word.startsWith('END_')) this.next()
      }
    }
    this.next()
  }

  private get line() {
    return this.tokens[Math.min(this.at, this.tokens.length - 1)]?.line ?? 1
  }

  private peek(): Token | undefined {
    return this.tokens[this.at]
  }

  private next(): Token {
    return this.tokens[this.at++] ?? { text: '', word: '', line: this.line }
  }

  private name(): string {
    const { text, word, line } = this.next()
    if (word !== '' && !/^[A-Za-z_]\w*$/.test(text)) throw new Mistake(line, `“${text}” stands where a name is due`)
    return text
  }

  private whole(): number {
    const isNegative = this.peek()?.text === '-' && Boolean(this.next())
    const { text, line } = this.next()
    if (!/^\d{1,9}$/.test(text)) throw new Mistake(line, `“${text}” stands where a whole number is due; constants cannot be told from here`)
    return isNegative ? -Number(text) : Number(text)
  }

  private expect(wanted: string) {
    const { text, word, line } = this.next()
    if (text !== wanted && word !== wanted) throw new Mistake(line, `“${text}” stands where “${wanted}” is due`)
  }
}

/** `5`, `-5` or `16#0A`; what is none of these names a constant, which cannot be told from here. */
const literalIn = (text: string): number => {
  const [, sign, base = '10', digits] = /^(-?)(?:(\d+)#)?([\dA-F_]+)$/i.exec(text) ?? []
  return digits === undefined ? NaN : (sign ? -1 : 1) * parseInt(digits.replaceAll('_', ''), Number(base))
}
