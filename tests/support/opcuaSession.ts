import type { OpcuaSettings } from '#core/opcua/settings'
import type { TagValue } from '#core/tags/types'
import type { CheckStep } from '#shared/status'
import type { KnownCertificate } from '#shared/certificates'
import { climb, leave } from '#engine/links/opcua/ladder'
import { OpcuaLinkSession } from '#engine/links/opcua/session'
import type { Security } from '#engine/trust/security'
import { TagTable, type Handle } from '#engine/table/tagTable'
import { certificateFacts } from '#security/certificateFacts'
import { opcuaSettings } from '#core/opcua/settings'
import { armNamespace } from '#standins/opcua/armNodes'
import { memoryJournal } from './modbusSession'
import { pointsIn, type Wanted } from './points'
import { noArrivals } from './arrivals'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'

export const opcuaSettingsFor = (port: number, more: Record<string, unknown> = {}): OpcuaSettings =>
  opcuaSettings.parse({
    address: `127.0.0.1:${port}/arm`,
    reading: { publishing: 50, sampling: 20 },
    patience: { connect: 2000, answer: 4000, retryFirst: 100, retryMost: 400 },
    ...more,
  })

/** NodeIds of arm 1, by their names. */
export const armNode = (id: string) => `nsu=${armNamespace(1)};s=${id}`

/** An OPC UA link with a tag table of its own, and values by place in the list. */
export const openOpcua = (settings: OpcuaSettings, security: Security, wanted: Wanted[]) => {
  const table = new TagTable()
  const journal = memoryJournal()
  /** Addresses that the link found lasting ones for. */
  const kept = new Map<Handle, string>()
  const keep = (found: ReadonlyMap<Handle, string>) => found.forEach((address, handle) => kept.set(handle, address))
  const session = new OpcuaLinkSession({
    meters: new Meters(),
    arrivals: noArrivals(),
    roots: () => [],
    wire: new Wire(),
    name: 'Arm under test',
    settings,
    table,
    journal,
    security,
    keep,
  })
  const points = pointsIn(table, wanted)
  session.setPoints(points, [])
  const at = (index: number) => points[index]!.handle
  return {
    session,
    table,
    journal,
    kept,
    points,
    value: (index: number): TagValue | undefined => table.values[at(index)],
    quality: (index: number) => table.quality[at(index)]!,
    sourceTime: (index: number) => table.sourceTime[at(index)]!,
    write: (index: number, value: TagValue) => session.write(at(index), value, { who: 'test', via: 'page', place: '' }),
  }
}

export const trusting = (
  der: Buffer,
  verdict: 'trusted' | 'refused' = 'trusted',
  despite: KnownCertificate['despite'] = [],
): KnownCertificate => {
  const { fingerprint, name } = certificateFacts(der)
  return { id: 1, revision: 1, fingerprint, name, verdict, der: der.toString('base64'), despite }
}

/** All steps of a check, the last state of each. */
export const checkAll = async (settings: OpcuaSettings, security: Security): Promise<CheckStep[]> => {
  const steps = new Map<string, CheckStep>()
  const walk = climb(settings, security, new AbortController().signal, new Wire())
  for (let next = await walk.next(); ; next = await walk.next()) {
    if (next.done) {
      if (next.value) await leave(next.value)
      return [...steps.values()]
    }
    steps.set(next.value.step, next.value)
  }
}
