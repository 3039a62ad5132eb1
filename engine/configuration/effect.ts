import type { Effect, NotInForce } from '#shared/status'
import type { Nodes } from '../nodes/nodes'
import type { ForceBook } from './force'

export const mostShownNotInForce = 100

interface Known {
  node: string
  /** Up to here everything was tried. */
  tried: number
  force: ForceBook
  nodes?: Pick<Nodes, 'notInForce' | 'notInForceCount' | 'waitingFor'> | undefined
}

/** What became of a revision, here and on nodes. */
export const effectIn = (revision: number, { node, tried, force, nodes }: Known): Effect => {
  if (tried < revision) return { revision, state: 'not yet', node, waits: [], things: [] }
  const things = [...force.list(), ...(nodes?.notInForce() ?? [])].filter((thing) => thing.revision === revision)
  const shown = things.slice(0, mostShownNotInForce)
  return { revision, state: things.length > 0 ? 'in part' : 'in force', node, waits: nodes?.waitingFor(revision) ?? [], things: shown }
}

/** What is not as configured, the first of it and how much it is. */
export const notInForceIn = ({ force, nodes }: Pick<Known, 'force' | 'nodes'>): { notInForce: NotInForce[]; notInForceCount: number } => ({
  notInForce: [...force.list(), ...(nodes?.notInForce() ?? [])].slice(0, mostShownNotInForce),
  notInForceCount: force.count + (nodes?.notInForceCount ?? 0),
})
