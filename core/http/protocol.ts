import type { AddressFacts, FieldProblem, PointDefinition, Protocol } from '../links/protocol'
import { pathProblem } from '../messages/payload'
import type { Spot } from '../notes/spot'
import { dataTypes } from '../tags/types'
import { baseProblem, goalOfBase } from './base'
import { callProblem, readCall } from './call'
import { httpColumns } from './columns'
import { whyNotKept } from './keeping'
import { httpLoad } from './load'
import { httpReference } from './reference'
import type { HttpPointOptions, HttpSettings } from './settings'

const describe = (text: string, settings: unknown): AddressFacts => {
  const { operations } = settings as HttpSettings
  const read = readCall(text)
  if (!read.ok) return read
  const problem = callProblem(read.call, operations)
  if (problem) return { ok: false, problem }
  const operation = operations.find(({ name }) => name === read.call.operation)!
  return {
    ok: true,
    canonical: read.canonical,
    notations: [{ label: 'asks', text: `${operation.method} ${operation.path || '/'}` }],
    note: null,
    types: dataTypes,
    defaultType: 'float64',
    writable: true,
    unit: null,
  }
}

const optionsOf = (point: PointDefinition) => point.options as HttpPointOptions

const problems = (point: PointDefinition, settings: unknown): FieldProblem[] => {
  const described = describe(point.address, settings)
  if (!described.ok) return [{ field: 'address', message: described.problem }]
  const { path = '', time = '' } = optionsOf(point)
  return [problemAt('path', path), problemAt('time', time), setProblem(point, settings as HttpSettings)].filter(
    (problem) => problem !== null,
  )
}

const problemAt = (field: 'path' | 'time', path: string): FieldProblem | null => {
  const message = pathProblem(path)
  return message === null ? null : { field: `options.${field}`, message }
}

const setProblem = (point: PointDefinition, { operations }: HttpSettings): FieldProblem | null => {
  const { setBy = '' } = optionsOf(point)
  if (setBy === '')
    return point.access === 'read' ? null : { field: 'options.setBy', message: 'A tag that is written names the call by which it is.' }
  const read = readCall(setBy)
  const problem = read.ok ? callProblem(read.call, operations, ['value']) : read.problem
  return problem === null ? null : { field: 'options.setBy', message: problem }
}

/** Two tags may take the same out of an answer; that is worth a note. */
const spot = (point: PointDefinition): Spot => {
  const { path = '' } = optionsOf(point)
  const address = path === '' ? point.address : `${point.address} ${path}`
  return { place: address, from: 0, to: 1, bit: null, reading: point.type, address }
}

const optionsText = (point: PointDefinition): string => {
  const { path = '', setBy } = optionsOf(point)
  return [path, setBy ? `set by ${setBy}` : ''].filter(Boolean).join(' ')
}

export const http: Protocol = {
  kind: 'http',
  title: 'Web API',
  subtitle: 'Services that are asked over HTTP: tariffs, forecasts, orders of the office',
  isMuteUntilAsked: true,
  capabilities: { browse: false, read: true, watch: false, write: true, publish: false, messages: false, tap: false, receives: 'call' },
  frames: null,
  goal: (settings) => goalOfBase(settings as HttpSettings),
  place: (settings) => {
    const { base } = settings as HttpSettings
    return baseProblem(base) === null ? base.replace(/^https?:\/\//i, '') : base
  },
  interval: (settings) => (settings as HttpSettings).interval,
  describe,
  isPassing: () => false,
  problems,
  spot,
  load: httpLoad,
  next: () => null,
  onUnit: () => null,
  shortAddress: (address) => address,
  reference: (settings) => httpReference(settings as HttpSettings),
  words: null,
  optionsText,
  leanOptions: (options) => options,
  whyNotKept: (before, after) => whyNotKept(before as HttpSettings, after as HttpSettings),
  columns: httpColumns,
  optionsFor: (_type, options) => options,
}
