import { constructFromEvents, CORE_SCHEMA, parseEvents, YAMLException } from 'js-yaml'
import { Places, type Step } from './places'
import { referenceProblem } from './references'

/** A place in a text; both from 1. */
export interface Spot {
  line: number
  column: number
}

export type YamlRead = { ok: true; text: YamlText } | { ok: false; spot: Spot; problem: string }

/** So many values a text may come to, with what its references repeat. */
const mostValues = 20_000_000
const mostDepth = 60

/** Reads a YAML 1.2 text of one document (core schema). References (`*`) are taken as far as they do not swell. */
export const readYaml = (source: string): YamlRead => {
  const lines = lineStarts(source)
  const refused = (offset: number, problem: string): YamlRead => ({ ok: false, spot: spotAt(lines, offset), problem })
  try {
    const events = parseEvents(source, { maxDepth: mostDepth })
    const wrong = referenceProblem(events, source, mostValues)
    if (wrong) return refused(wrong.offset, wrong.problem)
    const documents = constructFromEvents(events, { source, schema: CORE_SCHEMA })
    if (documents.length > 1) return refused(0, 'this is more than one document; “---” may stand at the top only.')
    return { ok: true, text: new YamlText(documents[0] ?? null, new Places(events, source), lines) }
  } catch (error) {
    if (!(error instanceof YAMLException)) throw error
    return refused(error.mark?.position ?? 0, `${error.reason}.`)
  }
}

/** A text that was read: its value, and where each part of that stands. */
export class YamlText {
  constructor(
    readonly value: unknown,
    private places: Places,
    private lines: readonly number[],
  ) {}

  /** Where a part stands, or the innermost that is there of what leads to it. */
  spotOf(path: readonly Step[]): Spot {
    return spotAt(this.lines, this.places.offsetOf(path))
  }

  /** A value as it is written, such as `007`; null where there is none. */
  writtenAt(path: readonly Step[]): string | null {
    return this.places.writtenAt(path)
  }
}

const lineStarts = (source: string): number[] => {
  const starts = [0]
  for (let at = source.indexOf('\n'); at >= 0; at = source.indexOf('\n', at + 1)) starts.push(at + 1)
  return starts
}

const spotAt = (lines: readonly number[], offset: number): Spot => {
  let [low, high] = [0, lines.length - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (lines[middle]! <= offset) low = middle
    else high = middle - 1
  }
  return { line: low + 1, column: offset - lines[low]! + 1 }
}
