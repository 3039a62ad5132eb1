import type { NodeCode } from './nodes'
import type { Answer } from './rpc'

/** What the web side asks of machines elsewhere that run links of the site. */
export interface NodesApi {
  /** Makes a code by which a machine becomes this node; one that was open ends. */
  makeNodeCode(nodeId: number, minutes: number, by: string): Promise<Answer<NodeCode>>
  nodeCodes(): NodeCode[]
  withdrawNodeCode(nodeId: number): Answer<null>
  /** Lets another machine lead the site. */
  handOver(nodeId: number, by: string): Promise<Answer<null>>
}
