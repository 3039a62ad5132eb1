import { promoteOpaqueStructure } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import { parseMember } from '#core/opcua/member'
import { parseNodeAddress, withIndex } from '#core/opcua/nodeId'
import type { OpcuaPointOptions, OpcuaSettings } from '#core/opcua/settings'
import type { ValueOrigin } from '#shared/values'
import type { Point } from '../driver'
import { detailsOf } from './details'
import { missingNamespace, refusalFault, stagesOf } from './origin'
import { generalFault } from '../../opcua/refusals'
import type { SignedIn } from './signedIn'

/** Reads a node over a session at hand, without watching it. */
export const readOnce = async (here: SignedIn, point: PointDefinition, settings: OpcuaSettings): Promise<ValueOrigin> => {
  const failed = (why: Fault): ValueOrigin => ({ stages: [], readings: [], wordsFrom: point.address, goesTo: [], fault: why })
  const parsed = parseNodeAddress(point.address)
  if (!parsed.ok) return failed(fault('entry.unreadable', { problem: parsed.problem }))
  const nodeId = withIndex(parsed.address, here.namespaces)
  if (nodeId === null) return failed(missingNamespace(parsed.address))
  try {
    const dataValue = await here.read(nodeId)
    await promoteOpaqueStructure(here.session as never, [dataValue])
    if (dataValue.statusCode.name === 'BadNodeIdUnknown') return failed(refusalFault(dataValue.statusCode.value, point.address))
    const member = parseMember((point.options as OpcuaPointOptions).member ?? '')
    const stages = stagesOf(dataValue, { point: point as Point, steps: member.ok ? member.steps : [] }, 'read once, with source time')
    const told = await toldOf(here, nodeId, (point.options as OpcuaPointOptions).member ?? '')
    return { stages, readings: [], wordsFrom: point.address, goesTo: [], fault: null, ...(told ? { told } : {}) }
  } catch (error) {
    return failed(generalFault(error, `read ${point.address}`, { host: settings.address, port: 0, answerMs: settings.patience.answer }))
  }
}

/** The node's own word on its type, access and unit; and its address by namespace URI, whatever was typed. */
const toldOf = async ({ explorer }: SignedIn, nodeId: string, member: string): Promise<ValueOrigin['told'] | null> => {
  const address = explorer.address(nodeId)
  const [details] = await detailsOf(explorer, [{ address, member }], false)
  if (!details?.type) return null
  const { type, access, unit, names, description } = details
  return { address, type, writable: access === 'readwrite', unit, ...(names ? { names } : {}), description }
}
