import {
  AttributeIds,
  PermissionType,
  type MonitoredItem,
  type NodeId,
  type OPCUAServer,
  type ServerSession,
  type Subscription,
} from 'node-opcua'
import { beforeEachEvent, waitForChanges } from '../../opcua/internals'

/**
 * The package samples each item by a timer unless the client asked for an interval of 0. Our tags' nodes
 * tell of every change: items on them wait for changes, and fold those that come within their
 * sampling interval into one. Whoever may not read a node stays with the timer, which refuses. Events go to whom they concern.
 */
export const driveByChange = (server: OPCUAServer, mayHear: (session: ServerSession, source: NodeId) => boolean) => {
  server.on('create_session', (session: ServerSession) =>
    session.on('new_subscription', (subscription: Subscription) =>
      subscription.on('monitoredItem', (item: MonitoredItem) => {
        if (item.itemToMonitor.attributeId === AttributeIds.Value) waitForChanges(item, PermissionType.Read)
        else if (item.itemToMonitor.attributeId === AttributeIds.EventNotifier) beforeEachEvent(item, mayHear)
      }),
    ),
  )
}
