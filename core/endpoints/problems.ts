import { protocolOf, type LinkKind } from '../links/registry'
import { namesInAnswer } from './answer'
import { shapeOf } from './paths'
import { parametersOf, type Endpoint } from './settings'
import { readLookUp } from './statement'

interface EndpointProblem {
  /** Below the list of endpoints, as in 0.path. */
  path: string
  message: string
}

/** What is wrong with endpoints that their contract cannot tell. */
export const endpointProblems = (
  endpoints: readonly Endpoint[],
  { link, names }: { link(id: number): { name: string; kind: LinkKind } | undefined; names: readonly string[] },
): EndpointProblem[] =>
  endpoints.flatMap((endpoint, i) => [
    ...sameAs(endpoint, endpoints, i),
    ...ofStep(endpoint, link).map(({ path, message }) => ({ path: `${i}.${path}`, message })),
    ...endpoint.who.flatMap((name, k) =>
      names.includes(name) ? [] : [{ path: `${i}.who.${k}`, message: `Nobody comes in here by the name “${name}”.` }],
    ),
  ])

const sameAs = ({ method, path }: Endpoint, all: readonly Endpoint[], i: number): EndpointProblem[] => {
  const first = all.findIndex((other) => other.method === method && shapeOf(other.path) === shapeOf(path))
  return first < i ? [{ path: `${i}.path`, message: `It cannot be told from ${method} ${all[first]!.path}.` }] : []
}

const ofStep = (endpoint: Endpoint, linkOf: (id: number) => { name: string; kind: LinkKind } | undefined): EndpointProblem[] => {
  const { does, answer } = endpoint
  const given = parametersOf(endpoint).map(({ name }) => name)
  if (does.kind === 'rows') {
    const link = linkOf(does.linkId)
    const read = readLookUp(endpoint, does.statement)
    return [
      ...(link ? [] : [{ path: 'does.linkId', message: 'This link is not there.' }]),
      ...(link && protocolOf(link.kind).capabilities.receives !== 'table'
        ? [{ path: 'does.linkId', message: `“${link.name}” gives no rows: it speaks ${protocolOf(link.kind).title}.` }]
        : []),
      ...(read.ok ? [] : [{ path: 'does.statement', message: read.problem }]),
    ]
  }
  if (does.kind === 'message') return []
  const known = new Set([...given, ...does.values.flatMap(({ name }) => [name, `${name}_time`, `${name}_quality`, `${name}_unit`])])
  const unknown = namesInAnswer(answer).filter((name) => !known.has(name))
  const holes = does.values.flatMap(({ path }, k) =>
    [...path.matchAll(/\{([^{}]*)\}/g)].flatMap(([whole, name]) =>
      given.includes(name!) ? [] : [{ path: `does.values.${k}.path`, message: `${whole} is no parameter of this endpoint.` }],
    ),
  )
  return [...holes, ...(unknown.length > 0 ? [{ path: 'answer', message: `Nothing here is called ${unknown.join(', ')}.` }] : [])]
}
