import { ClientMonitoredItem, TimestampsToReturn, UserTokenType, OPCUAClient } from 'node-opcua'
import { plainClient } from './tests/support/outlet'
import { testSecurity } from './tests/support/security'
import { securedClient } from './engine/opcua/dialling'
import { opcuaSettingsFor } from './tests/support/opcuaSession'
const c = await plainClient(4840, 'Maintenance laptop')
const sub = await c.session.createSubscription2({
  requestedPublishingInterval: 500,
  requestedMaxKeepAliveCount: 20,
  requestedLifetimeCount: 1000,
  maxNotificationsPerPublish: 0,
  publishingEnabled: true,
  priority: 1,
})
for (const p of ['active_power', 'voltage', 'frequency'])
  ClientMonitoredItem.create(
    sub,
    { nodeId: c.node('urn:keen-conduit:tags', `berth/1/shore/${p}`), attributeId: 13 },
    { samplingInterval: 100, queueSize: 10, discardOldest: true },
    TimestampsToReturn.Both,
  )
console.log(await c.write('urn:keen-conduit:tags', 'berth/2/shore/trip_limit', 5, 10))
const d = await plainClient(4840, 'Historian north')
for (const t of [
  'Berth meters|12:holding/40|float32',
  'Berth meters|13:holding/64|float32|2000',
  'Feeder meters|holding/40|float32',
  'Berth meters|holding/40|real',
])
  console.log(t, (await d.read('urn:keen-conduit:points', t)).statusCode.name)
const s = await testSecurity()
const endpoints = await (async () => {
  const x = OPCUAClient.create({ endpointMustExist: false })
  await x.connect('opc.tcp://127.0.0.1:4841')
  const e = await x.getEndpoints()
  await x.disconnect()
  return e
})()
const k = securedClient(
  s.own,
  s.trust,
  opcuaSettingsFor(4841, { policy: 'Basic256Sha256', mode: 'SignAndEncrypt' }),
  endpoints[0]!.serverCertificate as Buffer,
)
await k.connect('opc.tcp://127.0.0.1:4841').catch((e: Error) => console.log('knocked', e.message.slice(0, 60)))
setInterval(() => void d.read('urn:keen-conduit:points', 'Feeder meters|holding/40|float32'), 1000)
setTimeout(() => process.exit(0), Number(process.argv[2] ?? 600) * 1000)
