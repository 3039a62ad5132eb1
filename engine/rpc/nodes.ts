import { fault, isFault } from '#core/faults/catalogue'
import type { NodeCode } from '#shared/nodes'
import type { NodesApi } from '#shared/nodesApi'
import type { Answer } from '#shared/rpc'
import type { Nodes } from '../nodes/nodes'
import { PairingFunctions } from './pairing'

/** And of the desk at which machines become nodes. */
export class NodeFunctions extends PairingFunctions implements NodesApi {
  constructor(
    pairing: ConstructorParameters<typeof PairingFunctions>,
    private nodes: Nodes,
  ) {
    super(...pairing)
  }

  makeNodeCode = async (nodeId: number, minutes: number, by: string): Promise<Answer<NodeCode>> => {
    const made = (await this.nodes.desk.prepare(nodeId)) ?? this.nodes.desk.make(nodeId, minutes, by)
    return isFault(made) ? { ok: false, fault: made } : { ok: true, value: made }
  }

  nodeCodes = () => this.nodes.desk.list()

  handOver = async (nodeId: number, by: string): Promise<Answer<null>> => {
    const why = await this.nodes.handOver(nodeId, by)
    return why ? { ok: false, fault: why } : { ok: true, value: null }
  }

  withdrawNodeCode = (nodeId: number): Answer<null> =>
    this.nodes.desk.withdraw(nodeId) ? { ok: true, value: null } : { ok: false, fault: fault('entry.gone', { thing: 'code', id: nodeId }) }
}
