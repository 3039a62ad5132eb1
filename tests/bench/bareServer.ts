import { MessageSecurityMode, nodesets, OPCUAServer, SecurityPolicy, type UAObject, type UAVariable } from 'node-opcua'
import { freePort } from '../../launcher/ports.mjs'

/** A server of the package with nothing of ours: variables `v0`, `v1` … of type Double in a namespace of its own. @param more capabilities that differ. */
export const openBareServer = async (
  namespace: string,
  count: number,
  folder: string | null = null,
  more: { minSupportedSampleRate?: number } = {},
) => {
  const port = await freePort()
  const server = new OPCUAServer({
    port,
    host: '127.0.0.1',
    hostname: '127.0.0.1',
    securityPolicies: [SecurityPolicy.None],
    securityModes: [MessageSecurityMode.None],
    nodeset_filename: [nodesets.standard],
    serverCapabilities: {
      ...more,
      maxMonitoredItems: 500_000,
      operationLimits: { maxMonitoredItemsPerCall: 10_000, maxNodesPerRead: 10_000, maxNodesPerBrowse: 10_000 },
    },
  })
  await server.initialize()
  const space = server.engine.addressSpace!
  const own = space.registerNamespace(namespace)
  const { objects } = space.rootFolder
  const home: UAObject = folder ? own.addFolder(objects, { browseName: folder, nodeId: `s=${folder}` }) : objects
  const variables: UAVariable[] = Array.from({ length: count }, (_, i) =>
    own.addVariable({
      organizedBy: home,
      nodeId: `s=v${i}`,
      browseName: `v${i}`,
      dataType: 'Double',
      minimumSamplingInterval: 0,
      value: { dataType: 'Double', value: 0 },
    }),
  )
  await server.start()
  return { server, port, variables }
}
