import { childOf, childrenOf, readXml, within, wholeText, type Element } from '../../formats/xml/elements'
import { namesFrom, type ValueName } from '../../tags/valueNames'
import type { Declared, Group, Program, TypeRef } from './declared'

/**
 * Declarations as PLCopen TC6 XML writes them (version 2.01): data types of the project, variables of programs, and
 * global ones of configurations and resources. What only exists while a call lasts is passed over.
 */
export const readTc6 = (text: string): Program => {
  const program: Program = { types: new Map(), groups: [], problems: [] }
  const read = readXml(text)
  if (!read.ok) program.problems.push({ line: read.line, text: `The document cannot be read: ${read.problem}.` })
  else if (read.root.name !== 'project')
    program.problems.push({ line: read.root.line, text: `A project stands at the root of such a document, and here “${read.root.name}”.` })
  else new Project(program).read(read.root)
  return program
}

const deepest = 30
const mostProblems = 200

class Project {
  constructor(private found: Program) {}

  read(root: Element) {
    for (const one of childrenOf(within(root, 'types', 'dataTypes'), 'dataType')) {
      const type = this.typeIn(childOf(one, 'baseType'), 0)
      if (type && one.attributes.name) this.found.types.set(one.attributes.name.toUpperCase(), type)
    }
    for (const pou of childrenOf(within(root, 'types', 'pous'), 'pou')) this.unit(pou)
    for (const configuration of childrenOf(within(root, 'instances', 'configurations'), 'configuration')) {
      this.globals(configuration)
      for (const resource of childrenOf(configuration, 'resource')) this.globals(resource)
    }
  }

  /** A function block is a type, whose instances have places; a program has its own. */
  private unit(pou: Element) {
    const { name = '', pouType } = pou.attributes
    const parts = childOf(pou, 'interface')
    if (pouType === 'functionBlock') {
      const members = ['inputVars', 'outputVars', 'localVars'].flatMap((part) =>
        childrenOf(parts, part).flatMap((list) => this.variables(list, 1)),
      )
      this.found.types.set(name.toUpperCase(), { kind: 'struct', members })
    } else if (pouType === 'program')
      for (const part of ['localVars', 'globalVars']) for (const list of childrenOf(parts, part)) this.group(name, list)
  }

  private globals(owner: Element) {
    for (const list of childrenOf(owner, 'globalVars')) this.group(list.attributes.name ?? '', list)
  }

  private group(name: string, list: Element) {
    const group: Group = { name, variables: this.variables(list, 0) }
    if (group.variables.length > 0) this.found.groups.push(group)
  }

  private variables(list: Element, depth: number): Declared[] {
    return childrenOf(list, 'variable').flatMap((variable): Declared[] => {
      const { name, address } = variable.attributes
      const type = this.typeIn(childOf(variable, 'type'), depth)
      if (!name) this.problem(variable, 'a variable has no name')
      if (!name || !type) return []
      return [{ name, type, at: address ?? null, comment: wholeText(childOf(variable, 'documentation')), line: variable.line }]
    })
  }

  /** What stands in `type` or `baseType`. */
  private typeIn(holder: Element | null, depth: number): TypeRef | null {
    const element = holder?.children.find(({ name }) => name !== 'documentation' && name !== 'addData')
    if (!holder || !element) return holder ? this.problem(holder, 'a type is missing here') : null
    if (depth > deepest) return this.problem(element, `types lie more than ${deepest} deep in each other`)
    switch (element.name) {
      case 'derived':
        return { kind: 'named', name: (element.attributes.name ?? '').toUpperCase(), length: null }
      case 'string':
      case 'wstring':
        return { kind: 'named', name: element.name.toUpperCase(), length: wholeIn(element.attributes.length) }
      case 'enum':
        return this.enumeration(element, depth)
      case 'subrangeSigned':
      case 'subrangeUnsigned':
        return this.typeIn(childOf(element, 'baseType'), depth + 1)
      case 'struct':
        return { kind: 'struct', members: this.variables(element, depth + 1) }
      case 'array':
        return this.array(element, depth)
      default:
        return { kind: 'named', name: element.name.toUpperCase(), length: null }
    }
  }

  private enumeration(element: Element, depth: number): TypeRef {
    const base = childOf(element, 'baseType')
    const type = (base && this.typeIn(base, depth + 1)) ?? { kind: 'named' as const, name: 'INT', length: null }
    const values = childOf(element, 'values')
    const names: ValueName[] = []
    let value = 0
    for (const { attributes } of values ? childrenOf(values, 'value') : []) {
      if (attributes.value !== undefined) value = wholeIn(attributes.value) ?? NaN
      names.push({ value: value++, name: attributes.name ?? '' })
    }
    return type.kind === 'named' ? { ...type, names: namesFrom(names) } : type
  }

  private array(element: Element, depth: number): TypeRef | null {
    const ranges = childrenOf(element, 'dimension').map(({ attributes }) => [wholeIn(attributes.lower), wholeIn(attributes.upper)] as const)
    const of = this.typeIn(childOf(element, 'baseType'), depth + 1)
    if (!of) return null
    const known = ranges.flatMap(([from, to]) => (from === null || to === null ? [] : [[from, to] as const]))
    if (known.length === 0 || known.length < ranges.length)
      return this.problem(element, 'an array has no bounds that are whole numbers; constants cannot be told from here')
    return { kind: 'array', ranges: known, of }
  }

  private problem({ line }: Element, text: string): null {
    if (this.found.problems.length < mostProblems) this.found.problems.push({ line, text: `${text[0]!.toUpperCase()}${text.slice(1)}.` })
    return null
  }
}

const wholeIn = (text: string | undefined): number | null => (text !== undefined && /^\s*-?\d{1,9}\s*$/.test(text) ? Number(text) : null)
