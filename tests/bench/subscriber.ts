import { AttributeIds, ClientMonitoredItemGroup, OPCUAClient, TimestampsToReturn, type DataValue } from 'node-opcua'

/** One subscriber in a process of its own. Counts what arrives, and how long it took, and says so when asked. */
export interface Received {
  received: number
  /** Milliseconds from source time to here, of what came since `start`. */
  p50: number
  p99: number
}

const url = process.env.CONDUIT_BENCH_URL!
const nodes = JSON.parse(process.env.CONDUIT_BENCH_NODES!) as { prefix: string; count: number; namespace: string }
const samplingInterval = Number(process.env.CONDUIT_BENCH_SAMPLING)

const client = OPCUAClient.create({ endpointMustExist: false })
await client.connect(url)
const session = await client.createSession()
const index = (await session.readNamespaceArray()).indexOf(nodes.namespace)
const subscription = await session.createSubscription2({
  requestedPublishingInterval: 100,
  requestedMaxKeepAliveCount: 20,
  requestedLifetimeCount: 1000,
  maxNotificationsPerPublish: 0,
  publishingEnabled: true,
  priority: 1,
})
let received = 0
let ages: number[] = []
for (let from = 0; from < nodes.count; from += 1000) {
  const items = Array.from({ length: Math.min(1000, nodes.count - from) }, (_, i) => ({
    nodeId: `ns=${index};s=${nodes.prefix}${from + i}`,
    attributeId: AttributeIds.Value,
  }))
  const group = ClientMonitoredItemGroup.create(
    subscription,
    items,
    { samplingInterval, discardOldest: true, queueSize: 1 },
    TimestampsToReturn.Both,
  )
  group.on('changed', (_item, { sourceTimestamp }: DataValue) => {
    received++
    if (sourceTimestamp) ages.push(Date.now() - sourceTimestamp.getTime())
  })
  await new Promise<void>((resolve) => group.once('initialized', () => resolve()))
}
const ageAt = (share: number) => ages[Math.min(ages.length - 1, Math.floor(ages.length * share))] ?? NaN
process.on('message', (words) => {
  if (words === 'start') ages = []
  if (words === 'times') ages.sort((one, other) => one - other)
  process.send!({ received, p50: ageAt(0.5), p99: ageAt(0.99) } satisfies Received)
})
process.send!('ready')
process.once('disconnect', () => process.exit(0))
