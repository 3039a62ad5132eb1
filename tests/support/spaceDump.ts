import { createHash } from 'node:crypto'
import { AddressSpace, nodesets, type BaseNode, type UAVariable } from 'node-opcua'
import { generateAddressSpace } from 'node-opcua-address-space/nodeJS.js'
import loader from 'node-opcua-address-space/dist/api/loader/load_nodeset2.js'
import { loadInTurns } from '#engine/opcua/loadingInTurns'

/** Loads the nodes of the standard in a process of its own; tells what came of it, and how often others had their turn meanwhile. */
if (process.argv[2] === 'in turns') loadInTurns()

/** Turns of others while what was read is worked over. */
let turns = 0
const { prototype } = loader.NodeSetLoader
const { terminate } = prototype
prototype.terminate = async function () {
  const count = () => {
    turns++
    immediate = setImmediate(count)
  }
  let immediate = setImmediate(count)
  await terminate.call(this)
  clearImmediate(immediate)
}

const space = AddressSpace.create()
await generateAddressSpace(space, [nodesets.standard])

const lineOf = (node: BaseNode) => {
  const references = node.allReferences().map(({ referenceType, isForward, nodeId }) => `${referenceType} ${isForward} ${nodeId}`)
  const { dataType } = node as UAVariable
  return `${node.nodeId} ${node.constructor.name} ${dataType ?? ''} ${references.sort().join(',')}`
}
const nodes = [...(space.getNamespace(0) as unknown as { nodeIterator(): Iterable<BaseNode> }).nodeIterator()]
const dump = createHash('sha256').update(nodes.map(lineOf).sort().join('\n')).digest('hex')
process.stdout.write(JSON.stringify({ turns, nodes: nodes.length, dump }))
process.exit(0)
