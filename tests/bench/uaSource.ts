import { DataType, MessageSecurityMode, nodesets, OPCUAServer, SecurityPolicy, Subscription, type UAVariable } from 'node-opcua'
import { freePort } from '../../launcher/ports.mjs'

/**
 * A server in a process of its own with a folder of variables. Told a number, it makes that many
 * changes a second, evenly: each with the time at which it came about.
 */
const count = Number(process.env.CONDUIT_BENCH_COUNT)
const stepMs = 20
const port = await freePort()
// as quick as controllers are; the package's own floor is 50 ms
Subscription.minimumPublishingInterval = 10
const server = new OPCUAServer({
  port,
  host: '127.0.0.1',
  hostname: '127.0.0.1',
  securityPolicies: [SecurityPolicy.None],
  securityModes: [MessageSecurityMode.None],
  nodeset_filename: [nodesets.standard],
  serverCapabilities: {
    minSupportedSampleRate: 0,
    maxMonitoredItems: 500_000,
    operationLimits: { maxMonitoredItemsPerCall: 10_000, maxNodesPerRead: 10_000, maxNodesPerBrowse: 10_000 },
  },
})
await server.initialize()
const space = server.engine.addressSpace!
const own = space.registerNamespace('urn:bench')
const folder = own.addFolder(space.rootFolder.objects, { browseName: 'Cranes', nodeId: 's=cranes' })
const variables: UAVariable[] = Array.from({ length: count }, (_, i) =>
  own.addVariable({
    organizedBy: folder,
    nodeId: `s=v${i}`,
    browseName: `v${i}`,
    dataType: 'Double',
    minimumSamplingInterval: 0,
    value: { dataType: 'Double', value: 0 },
  }),
)
await server.start()

let next = 0
let value = 0
const change = (many: number) => {
  const now = new Date()
  value++
  for (let i = 0; i < many; i++, next = (next + 1) % count)
    variables[next]!.setValueFromSource({ dataType: DataType.Double, value }, undefined, now)
}

let timer: NodeJS.Timeout | null = null
process.on('message', (rate: number) => {
  if (timer) clearInterval(timer)
  const [started, before] = [performance.now(), { made: 0 }]
  timer = setInterval(() => {
    const due = Math.floor(((performance.now() - started) / 1000) * rate) - before.made
    before.made += due
    change(due)
  }, stepMs)
})
process.send!(port)
process.once('disconnect', () => process.exit(0))
