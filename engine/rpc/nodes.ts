import { fault, isFault } from '#core/faults/catalogue'
import type { NodeCode } from '#shared/nodes'
import type { NodesApi } from '#shared/nodesApi'
import type { Answer } from '#shared/rpc'
import type { JoiningDesk } from '../nodes/joiningDesk'
import { PairingFunctions } from './pairing'

/** And of the desk at which machines become nodes. */
export class NodeFunctions extends PairingFunctions implements NodesApi {
  constructor(
    pairing: ConstructorParameters<typeof PairingFunctions>,
    private joining: JoiningDesk,
  ) {
    super(...pairing)
  }

  makeNodeCode = async (nodeId: number, minutes: number, by: string): Promise<Answer<NodeCode>> => {
    const made = (await this.joining.prepare(nodeId)) ?? this.joining.make(nodeId, minutes, by)
    return isFault(made) ? { ok: false, fault: made } : { ok: true, value: made }
  }

  nodeCodes = () => this.joining.list()

  withdrawNodeCode = (nodeId: number): Answer<null> =>
    this.joining.withdraw(nodeId) ? { ok: true, value: null } : { ok: false, fault: fault('entry.gone', { thing: 'code', id: nodeId }) }
}
