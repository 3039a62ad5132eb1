import { createRequire } from 'node:module'
import { NodeClass, PseudoSession, type BaseNode, type IAddressSpace } from 'node-opcua'
import { Turns } from '#pacing/turns'
import { InternalsMoved } from './internals'

/**
 * The package loads the nodes of the standard and works them over in one go: for a second nothing else gets its turn.
 * Here the same work is done with turns for others in between. As in `internals.ts`, what it keeps for itself is used.
 */

const require = createRequire(import.meta.url)
const loader = 'node-opcua-address-space/dist/api/loader'

type Space = IAddressSpace & { suspendBackReference: boolean }
type Node = BaseNode & { propagate_back_references_declared_from_both_ends(): void }
type Task = (space: Space) => Promise<void>
interface Pending {
  settled: Set<BaseNode>
  references: [Node, object][]
}
interface Loader {
  addressSpace: Space
  queues: Record<string, unknown>
  applier: { takePendingBackReferences(): Pending }
  terminate(): Promise<void>
}
interface Steps {
  load_nodeset2: { NodeSetLoader: { prototype: Loader } }
  narrow_instance_datatypes: { narrowInstanceDataTypes(space: IAddressSpace): unknown }
  namespace_post_step: { promoteObjectsAndVariables(space: IAddressSpace): Promise<void> }
}

const step = <K extends keyof Steps>(file: K, member: keyof Steps[K] & string): Steps[K] => {
  const found = require(`${loader}/${file}.js`) as Steps[K]
  if (!found[member]) throw new InternalsMoved(`${file}.${member}`)
  return found
}

/** How many spaces are being loaded just now. */
let loading = 0
const turns = new Turns()

/** From now on, whatever is loaded leaves turns to others. */
export const loadInTurns = () => {
  const { prototype } = step('load_nodeset2', 'NodeSetLoader').NodeSetLoader
  const terminate = prototype.terminate
  prototype.terminate = async function () {
    loading++
    try {
      await settleReferences(this)
      for (const [name, tasks] of Object.entries(this.queues)) if (name.startsWith('postTasks')) giveTurnsBetween(tasks as Task[])
      await terminate.call(this)
    } finally {
      loading--
    }
  }
  workOverInSlices()
  giveTurnsInSessions()
}

const nodesOf = (space: IAddressSpace): Node[] =>
  space.getNamespaceArray().flatMap((namespace) => [...(namespace as unknown as { nodeIterator(): Iterable<Node> }).nodeIterator()])

/** References are known from both ends before the package looks: it finds nothing left to do. */
const settleReferences = async ({ addressSpace, applier }: Loader) => {
  const pending = applier.takePendingBackReferences()
  // those are few, and left to the package
  const kept = pending.references
  addressSpace.suspendBackReference = false
  const nodes = nodesOf(addressSpace)
  await turns.each(nodes, (node) => {
    if (!pending.settled.has(node)) node.propagate_back_references_declared_from_both_ends()
  })
  applier.takePendingBackReferences = () => ({ settled: new Set(nodes), references: kept })
}

/** The package goes over its tasks one by one and awaits each; between two of them others may come. */
const giveTurnsBetween = (tasks: Task[]) => {
  tasks[Symbol.iterator] = function* () {
    for (let i = 0; i < tasks.length; i++) {
      yield tasks[i]!
      if (turns.isOver) yield () => turns.next()
    }
  } as () => ArrayIterator<Task>
}

const sliceSize = 200
const slicesOf = <T>(all: readonly T[]): T[][] =>
  Array.from({ length: Math.ceil(all.length / sliceSize) }, (_, i) => all.slice(i * sliceSize, (i + 1) * sliceSize))

/** An address space of which only some nodes show to whoever goes over all. */
const only = (space: IAddressSpace, nodes: readonly BaseNode[]): IAddressSpace =>
  Object.create(space, { getNamespaceArray: { value: () => [{ nodeIterator: () => nodes.values() }] } }) as IAddressSpace

/** Both steps go over all nodes and look at each by itself; so do they slice by slice. */
const workOverInSlices = () => {
  const narrowing = step('narrow_instance_datatypes', 'narrowInstanceDataTypes')
  const promoting = step('namespace_post_step', 'promoteObjectsAndVariables')
  const { narrowInstanceDataTypes } = narrowing
  const { promoteObjectsAndVariables } = promoting
  // it cannot be waited for: it is done at the begin of the next step, which can
  narrowing.narrowInstanceDataTypes = () => []
  promoting.promoteObjectsAndVariables = async (space) => {
    const [variables, objects] = [NodeClass.Variable, NodeClass.Object].map((kind) =>
      nodesOf(space).filter(({ nodeClass }) => nodeClass === kind),
    )
    await turns.each(slicesOf(variables!), (some) => narrowInstanceDataTypes(only(space, some)))
    for (const some of [...slicesOf(variables!), ...slicesOf(objects!)]) {
      await promoteObjectsAndVariables(only(space, some))
      if (turns.isOver) await turns.next()
    }
  }
}

const asked = ['browse', 'read', 'translateBrowsePath'] as const

/** Types are found by asking the space as a client would; between two answers others may come. */
const giveTurnsInSessions = () => {
  const prototype = PseudoSession.prototype as unknown as Record<string, (...given: unknown[]) => unknown>
  for (const name of asked) {
    const ask = prototype[name]
    if (!ask) throw new InternalsMoved(`PseudoSession.${name}`)
    prototype[name] = function (...given) {
      const answer = ask.apply(this, given)
      if (loading === 0 || !(answer instanceof Promise)) return answer
      return answer.then(async (found: unknown) => {
        if (turns.isOver) await turns.next()
        return found
      })
    }
  }
}
