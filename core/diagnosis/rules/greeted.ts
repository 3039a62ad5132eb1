import type { Facts } from '../facts'

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

export const isExpected = ({ goal, greeting }: Facts) =>
  !!greeting && !!goal && (expected[goal.speaks] === greeting.service.id || (goal.isEncrypted === true && greeting.service.id === 'tls'))

/** It does speak what is expected, in another framing. */
export const isBareRtu = ({ goal, greeting }: Facts) => greeting?.service.id === 'modbus-rtu' && goal?.speaks === 'Modbus TCP'

/** What came from there is what another service says. */
export const otherService = (facts: Facts): string | null =>
  facts.greeting && !isExpected(facts) && !isBareRtu(facts)
    ? `what it said is that of ${facts.greeting.service.title}: ${facts.greeting.bytes}`
    : null

export const saysNothing = ({ greeting }: Facts) => greeting === null
