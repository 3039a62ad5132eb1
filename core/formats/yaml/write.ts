import { COLLECTION_STYLE, dump, visit, type MappingNode, type Node } from 'js-yaml'

/** Longer ones are written line by line. */
const widestLine = 100

/**
 * A named thing as YAML, in the order of its fields: texts of several lines as such, and lists and maps without
 * others in them on one line, where they fit.
 *
 * @example
 * writeYaml({ range: { low: 0, high: 4000 } }) // range: { low: 0, high: 4000 }
 */
export const writeYaml = (value: unknown): string =>
  dump(value, {
    lineWidth: -1,
    noRefs: true,
    flowBracketPadding: true,
    transform: (documents) =>
      visit(documents, (node, { depth }) => {
        if (depth > 0 && (node.kind === 'mapping' || node.kind === 'sequence') && fitsOneLine(node)) node.style = COLLECTION_STYLE.FLOW
      }),
  })

const fitsOneLine = (node: Exclude<Node, { kind: 'alias' | 'scalar' }>): boolean => {
  const parts = node.kind === 'mapping' ? partsOf(node) : node.items
  let width = 4
  for (const part of parts) {
    if (part.kind !== 'scalar' || part.value.includes('\n')) return false
    width += part.value.length + 2
  }
  return width <= widestLine
}

const partsOf = ({ items }: MappingNode) => items.flatMap(({ key, value }) => [key, value])
