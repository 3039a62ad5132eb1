import { AttributeIds, ServerState, type ClientSession } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { duration } from '#core/text/duration'

const clockSlackMs = 60_000
const serverStatus = 'i=2256'
const namespaceArray = 'i=2255'

type First = { evidence: string; namespaces: string[] } | { fault: Fault }

/** The server's own state and clock, and how it numbers its namespaces. */
export const firstValue = async (session: ClientSession): Promise<First> => {
  const [status, spaces] = await session.read([
    { nodeId: serverStatus, attributeId: AttributeIds.Value },
    { nodeId: namespaceArray, attributeId: AttributeIds.Value },
  ])
  const value = status!.value.value as {
    state?: ServerState
    currentTime?: Date | null
    buildInfo?: { productName?: string | null }
  } | null
  if (value?.state !== undefined && value.state !== ServerState.Running)
    return { fault: fault('opcua.not-running', { state: ServerState[value.state] ?? String(value.state) }) }
  const namespaces = (spaces!.value.value as (string | null)[] | null)?.map((uri) => uri ?? '') ?? []
  return { namespaces, evidence: `${value?.buildInfo?.productName || 'the server'} runs${clockNote(value?.currentTime)}` }
}

const clockNote = (theirs: Date | null | undefined) => {
  if (!theirs) return ''
  const behind = Date.now() - theirs.getTime()
  if (Math.abs(behind) < clockSlackMs) return ', its clock agrees with ours'
  return `, and its clock is ${duration(Math.abs(behind))} ${behind > 0 ? 'behind' : 'ahead of'} ours`
}
