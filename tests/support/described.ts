import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js'
import { default as formats } from 'ajv-formats'

interface Response {
  content?: Record<string, { schema: object }>
  'x-faults'?: string[]
}
interface Operation {
  operationId: string
  responses: Record<string, Response>
}
export interface ApiDocument {
  paths: Record<string, Record<string, Operation>>
  components: object
}

/** An API description that answers are held against, by a validator that knows nothing of our contracts. */
export class Described {
  private ajv = new Ajv2020({ strict: false, allErrors: true })
  private validators = new Map<string, ValidateFunction>()
  private answered = new Set<string>()

  constructor(private document: ApiDocument) {
    formats.default(this.ajv)
    this.ajv.addSchema({ $id: 'api', components: document.components })
  }

  /** What is wrong with an answer, by the description; empty: nothing. @param parts the answer, or the parts of one that comes in lines. */
  problems(method: string, address: string, status: number, parts: readonly unknown[]): string {
    const path = this.pathOf(method, address.split('?')[0]!)
    const operation = path && this.document.paths[path]![method.toLowerCase()]
    if (!operation) return ''
    const name = `${method} ${path}`
    const response = operation.responses[status]
    if (!response) return `${name} answers ${status}, which it does not tell`
    const validate = this.validatorOf(`${name} ${status}`, response)
    for (const part of parts)
      if (!validate(part))
        return `${name} ${status}: ${this.ajv.errorsText(validate.errors).slice(0, 600)} in ${JSON.stringify(part).slice(0, 600)}`
    if (status === 200 && parts.length > 0) this.answered.add(name)
    return status === 200 ? '' : undescribed(name, response, parts[0])
  }

  /** Operations of which no answer was seen that did what was asked. */
  get unanswered(): string[] {
    const all = Object.entries(this.document.paths).flatMap(([path, methods]) =>
      Object.keys(methods).map((method) => `${method.toUpperCase()} ${path}`),
    )
    return all.filter((name) => !this.answered.has(name))
  }

  private validatorOf(key: string, { content }: Response): ValidateFunction {
    const known = this.validators.get(key)
    if (known) return known
    const { schema } = Object.values(content!)[0]!
    const moved = JSON.parse(JSON.stringify(schema).replaceAll('"#/', '"api#/')) as object
    const made = this.ajv.compile(moved)
    this.validators.set(key, made)
    return made
  }

  /** The path as the description has it; plain names come before those in braces. */
  private pathOf(method: string, address: string): string | null {
    const fitting = Object.keys(this.document.paths).filter(
      (path) =>
        method.toLowerCase() in this.document.paths[path]! &&
        new RegExp(`^${path.replaceAll('.', '\\.').replace(/\{\w+\}/g, '[^/]+')}$`).test(address),
    )
    return fitting.sort((a, b) => a.split('{').length - b.split('{').length)[0] ?? null
  }
}

const undescribed = (name: string, response: Response, body: unknown): string => {
  const { code, side } = (body as { fault: { code: string; side: string } }).fault
  const isFarSide = side === 'device' || side === 'network' || side === 'consumer' || /^(write|link|outlet|records)\./.test(code)
  return isFarSide || response['x-faults']?.includes(code) ? '' : `${name} is refused with ${code}, which it does not tell`
}
