import type { Facts, Goal } from '../facts'
import { serviceOf, type Service } from '../service'

/** What a service is called that a link of each standard expects. */
const expected: Record<string, string> = {
  'Modbus TCP': 'modbus-tcp',
  'ISO-on-TCP': 'iso-tcp',
  'OPC UA': 'opcua',
  MQTT: 'mqtt',
  PostgreSQL: 'postgresql',
  MySQL: 'mysql',
  HTTP: 'http',
  HTTPS: 'tls',
}

export const isExpected = ({ goal, greeting }: Facts) => !!greeting && !!goal && isOf(goal, greeting.service)

const isOf = (goal: Goal, { id }: Service) => expected[goal.speaks] === id || (goal.isEncrypted === true && id === 'tls')

/** Those that are known by words alone, wherever in a connection they stand; numbers mean other things in other protocols. */
const inWords = new Set<Service['id']>(['http', 'ssh', 'opcua', 'file-transfer'])

/** What came is no answer of whom was asked: it is what another service says. */
export const isFromOther = (bytes: Uint8Array, goal: Goal | null): boolean => {
  if (!goal) return false
  const service = serviceOf(bytes)
  return service !== null && inWords.has(service.id) && !isOf(goal, service)
}

/** It does speak what is expected, in another framing. */
export const isBareRtu = ({ goal, greeting }: Facts) => greeting?.service.id === 'modbus-rtu' && goal?.speaks === 'Modbus TCP'

/** What came from there is what another service says. */
export const otherService = (facts: Facts): string | null =>
  facts.greeting && !isExpected(facts) && !isBareRtu(facts)
    ? `what it said is that of ${facts.greeting.service.title}: ${facts.greeting.bytes}`
    : null

export const saysNothing = ({ greeting }: Facts) => greeting === null
