import { AttributeIds, ClientMonitoredItemGroup, OPCUAClient, TimestampsToReturn, type DataValue } from 'node-opcua'
import { openBareServer } from './bareServer'
import { answerWithUsage, pipe } from './pipe'

/** What one would write by hand with the same package: a client session whose notifications are set in a bare server's variables. */
const { port, variables } = await openBareServer('urn:piped', pipe.count)

const client = OPCUAClient.create({ endpointMustExist: false })
await client.connect(`opc.tcp://127.0.0.1:${pipe.source}`)
const session = await client.createSession()
const index = (await session.readNamespaceArray()).indexOf('urn:bench')
const subscription = await session.createSubscription2({
  requestedPublishingInterval: pipe.publishing,
  requestedMaxKeepAliveCount: 20,
  requestedLifetimeCount: 1000,
  maxNotificationsPerPublish: 0,
  publishingEnabled: true,
  priority: 1,
})
for (let from = 0; from < pipe.count; from += 1000) {
  const items = Array.from({ length: 1000 }, (_, i) => ({ nodeId: `ns=${index};s=v${from + i}`, attributeId: AttributeIds.Value }))
  const group = ClientMonitoredItemGroup.create(
    subscription,
    items,
    { samplingInterval: 0, discardOldest: true, queueSize: 1 },
    TimestampsToReturn.Both,
  )
  group.on('changed', (_item, { value, statusCode, sourceTimestamp }: DataValue, i: number) =>
    variables[from + i]!.setValueFromSource(value, statusCode, sourceTimestamp ?? undefined),
  )
  await new Promise<void>((resolve) => group.once('initialized', () => resolve()))
}
answerWithUsage({ port, namespace: 'urn:piped' })
