import { SaxesParser } from 'saxes'

/** An element of a document (XML 1.0, fifth edition), by its name without a prefix. */
export interface Element {
  name: string
  /** Its namespace; empty: none. */
  namespace: string
  attributes: Record<string, string>
  children: Element[]
  /** Its own text, without that of its children. */
  text: string
  /** From 1. */
  line: number
}

export type ReadDocument = { ok: true; root: Element } | { ok: false; line: number; problem: string }

export interface XmlLimits {
  /** Elements in all. */
  elements: number
  /** Elements in each other. */
  depth: number
}

const usualLimits: XmlLimits = { elements: 500_000, depth: 100 }

class Unreadable extends Error {
  constructor(
    readonly line: number,
    problem: string,
  ) {
    super(problem)
  }
}

/** Whether a text is meant to be a document at all. */
export const isXml = (text: string): boolean => /^\ufeff?\s*<(\?xml|[A-Za-z_!])/.test(text)

/**
 * Reads a document whole. One that declares a type of its own is refused: entities could stand for a file, or swell to
 * what no machine can hold, and no format that is read here needs one.
 */
export const readXml = (text: string, limits: XmlLimits = usualLimits): ReadDocument => {
  const parser = new SaxesParser({ xmlns: true, position: true })
  const open: Element[] = []
  let root: Element | null = null
  let count = 0
  const refuse = (problem: string): never => {
    throw new Unreadable(parser.line, problem)
  }
  parser.on('error', (error) => refuse(error.message.replace(/^\S*\d+:\d+: /, '')))
  parser.on('doctype', () => refuse('it declares a document type, which is not read: entities in it could stand for anything'))
  parser.on('opentag', ({ local, uri, attributes }) => {
    if (++count > limits.elements) refuse(`it has more than ${limits.elements.toLocaleString('en-GB')} elements`)
    if (open.length >= limits.depth) refuse(`elements lie more than ${limits.depth} deep in each other`)
    const element: Element = { name: local, namespace: uri, attributes: plain(attributes), children: [], text: '', line: parser.line }
    open.at(-1)?.children.push(element)
    root ??= element
    open.push(element)
  })
  const addText = (more: string) => {
    const element = open.at(-1)
    if (element) element.text += more
  }
  parser.on('text', addText)
  parser.on('cdata', addText)
  parser.on('closetag', () => void open.pop())
  try {
    parser.write(text.replace(/^\ufeff/, '')).close()
  } catch (error) {
    if (error instanceof Unreadable) return { ok: false, line: error.line, problem: error.message }
    throw error
  }
  return root ? { ok: true, root } : { ok: false, line: 1, problem: 'there is no element in it' }
}

/** By their names without a prefix; one with a prefix keeps the name `prefix:local`, too. */
const plain = (attributes: Record<string, { local: string; prefix: string; value: string } | string>): Record<string, string> => {
  const found: Record<string, string> = {}
  for (const one of Object.values(attributes)) {
    if (typeof one === 'string') continue
    if (one.prefix === 'xmlns' || one.local === 'xmlns') continue
    found[one.prefix === '' ? one.local : `${one.prefix}:${one.local}`] = one.value
  }
  return found
}

export const childOf = (element: Element | null | undefined, name: string): Element | null =>
  element?.children.find((child) => child.name === name) ?? null

export const childrenOf = (element: Element | null | undefined, name: string): Element[] =>
  element?.children.filter((child) => child.name === name) ?? []

/** The one that is reached by these names, one in the other. */
export const within = (element: Element | null | undefined, ...names: string[]): Element | null =>
  names.reduce<Element | null>((at, name) => childOf(at, name), element ?? null)

/** All text of an element and of what lies in it, with single spaces. */
export const wholeText = (element: Element | null): string => {
  if (!element) return ''
  const parts = [element.text, ...element.children.map(wholeText)]
  return parts.join(' ').replace(/\s+/g, ' ').trim()
}
