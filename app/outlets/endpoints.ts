import { endpointContract, type Endpoint } from '#core/endpoints/settings'

/** Endpoints as they are before anything is typed. */

type Step = Endpoint['does']

export const blankStep = (kind: Step['kind'], databases: readonly { id: number }[]): Step => {
  if (kind === 'rows') return { kind, linkId: databases[0]?.id ?? 0, statement: '', many: false, most: 1000 }
  return kind === 'tags' ? { kind, values: [{ name: '', path: '' }] } : { kind, topic: '', answers: 'kept', within: 5000 }
}

export const blankEndpoint = (databases: readonly { id: number }[]): Endpoint => ({
  ...endpointContract.parse({ path: '/x', does: { kind: 'tags', values: [{ name: 'x', path: 'x' }] } }),
  path: '',
  does: blankStep(databases.length > 0 ? 'rows' : 'tags', databases),
})

/** What an answer may look like. */
export const exampleFor = (does: Step): string => {
  if (does.kind === 'message') return '{"taken": "{outcome}"}'
  if (does.kind === 'tags') return '{"kw": "{kw}", "unit": "{kw_unit}"}'
  return does.many ? '{"calls": [{"kwh": "{kwh}", "at": "{arrived}"}]}' : '{"kwh": "{kwh}", "at": "{arrived}"}'
}
