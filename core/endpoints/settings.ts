import { z } from 'zod'
import { inputName } from '../bridges/settings'
import { idField, lineField, milliseconds, wholeNumber } from '../contracts/fields'
import { methods } from '../http/operation'
import { topicProblem } from '../mqtt/topic'
import { answerProblem } from './answer'
import { endpointPathProblem, namesIn } from './paths'

/** What an endpoint of a person's own is: how it is asked, what it does, and what it answers. */

const checkedBy = (field: z.ZodType<string>, problemIn: (text: string) => string | null) =>
  field.superRefine((text, context) => {
    const problem = problemIn(text)
    if (problem) context.addIssue({ code: 'custom', message: problem })
  })

export const parameterTypes = ['text', 'whole', 'number', 'truth', 'time'] as const
export type ParameterType = (typeof parameterTypes)[number]

const bound = z.number({ error: 'A number, or nothing.' }).nullable().default(null)

export const parameterContract = z
  .object({
    name: inputName,
    in: z.enum(['path', 'query', 'header', 'body']).default('query'),
    type: z.enum(parameterTypes).default('text'),
    required: z.boolean().default(true).describe('Where it is not given, nothing is done; else it is null.'),
    least: bound.describe('Of numbers the least, of texts the fewest characters; null: no limit.'),
    most: bound.describe('Of numbers the most, of texts the most characters; null: no limit.'),
    choices: z.array(z.string().max(200)).max(100, 'At most 100 choices.').default([]).describe('It is one of these; none: it may be any.'),
    about: lineField('A text', 300).default(''),
  })
  .refine(({ least, most }) => least === null || most === null || least <= most, {
    message: 'The most is not below the least.',
    path: ['most'],
  })
export type Parameter = z.output<typeof parameterContract>

const rows = z.object({
  kind: z.literal('rows'),
  linkId: idField('A link'),
  statement: z
    .string({ error: 'A statement is text.' })
    .trim()
    .min(1, 'A statement that asks for rows, as in select kwh from call where voyage = {voyage}.')
    .max(4000, 'At most 4,000 characters.')
    .describe('What stands in braces is handed over beside the text, and never stands in it.'),
  many: z.boolean().default(false).describe('All rows, or the first one.'),
  most: wholeNumber('The most rows', 1, 10_000).default(1000),
})

const tags = z.object({
  kind: z.literal('tags'),
  values: z
    .array(
      z.object({
        name: inputName,
        path: z.string().trim().min(1, 'The path of a tag.').max(240, 'At most 240 characters.').describe('As in berth/{berth}/power.'),
      }),
    )
    .min(1, 'At least one tag.')
    .max(200, 'At most 200 tags.'),
})

const message = z.object({
  kind: z.literal('message'),
  topic: checkedBy(z.string({ error: 'A topic is text.' }).trim().min(1, 'A topic for bridges to listen to.'), topicProblem),
  answers: z
    .enum(['kept', 'outcome'])
    .default('kept')
    .describe('Once it is kept (202), or once it is known what became of it at the destinations.'),
  within: milliseconds('The time to wait', 100, 60_000).default(5000),
})

interface Clash {
  path: (string | number)[]
  message: string
}
interface Asked {
  method: string
  path: string
  parameters: readonly Parameter[]
  does: { kind: 'rows' | 'tags' | 'message' }
}

/** What does not go together within an endpoint. */
const clashes = ({ method, path, parameters, does }: Asked): Clash[] => {
  const inPath = namesIn(path)
  const ofParameter = parameters.flatMap((one, i): Clash[] => {
    const at = (field: string, message: string): Clash => ({ path: ['parameters', i, field], message })
    return [
      ...(parameters.findIndex(({ name }) => name === one.name) < i ? [at('name', 'Another parameter has this name.')] : []),
      ...(one.in === 'body' && method === 'GET' ? [at('in', 'A GET has no body.')] : []),
      ...placeClashes(one, inPath.includes(one.name)).map(([field, message]) => at(field, message)),
    ]
  })
  const wrongMethod = methodProblem(does.kind, method)
  return [...ofParameter, ...(wrongMethod === null ? [] : [{ path: ['method'], message: wrongMethod }])]
}

const placeClashes = ({ name, in: where, required }: Parameter, isInPath: boolean): [field: string, message: string][] => {
  if (where !== 'path') return isInPath ? [['in', 'It stands in the path.']] : []
  if (!isInPath) return [['name', `The path has no {${name}}.`]]
  return required ? [] : [['required', 'A part of the path is always there.']]
}

const methodProblem = (kind: 'rows' | 'tags' | 'message', method: string): string | null => {
  if (kind === 'message') return method === 'GET' ? 'A GET changes nothing: a message is handed in by POST.' : null
  if (kind === 'tags') return method === 'GET' ? null : 'Tags are asked for by GET.'
  return method === 'GET' || method === 'POST' ? null : 'Rows are asked for by GET or POST.'
}

export const endpointContract = z
  .object({
    method: z.enum(methods).default('GET'),
    path: checkedBy(z.string({ error: 'A path is text.' }).trim().max(300, 'At most 300 characters.'), endpointPathProblem),
    about: lineField('A text', 300).default('').describe('What it is there for, for its description.'),
    who: z.array(z.string().max(120)).max(200).default([]).describe('Names of those who may ask; none: whoever comes in.'),
    parameters: z.array(parameterContract).max(50, 'At most 50 parameters.').default([]),
    does: z.discriminatedUnion('kind', [rows, tags, message]),
    answer: checkedBy(z.string().max(20_000, 'At most 20,000 characters.').default(''), answerProblem).describe(
      'JSON with names in braces where values go; empty: all that there is.',
    ),
    missing: z
      .literal([404, 204, 200])
      .default(404)
      .describe('The status where nothing is found: with 204 nothing is said, with 200 null or an empty list.'),
  })
  .superRefine((endpoint, context) => {
    for (const { path, message } of clashes(endpoint)) context.addIssue({ code: 'custom', path, message })
  })
export type Endpoint = z.output<typeof endpointContract>

/** The parameters of an endpoint: those that it names, and what else stands in its path, as text. */
export const parametersOf = ({ path, parameters }: Pick<Endpoint, 'path' | 'parameters'>): Parameter[] => {
  const named = new Set(parameters.map(({ name }) => name))
  const others = namesIn(path).filter((name) => !named.has(name))
  return [...others.map((name) => parameterContract.parse({ name, in: 'path' })), ...parameters]
}
