import {
  AttributeIds,
  PermissionType,
  type ISessionContext,
  type MonitoredItem,
  type OPCUAServer,
  type ServerSession,
  type Subscription,
} from 'node-opcua'

/** What the package keeps private of an item. */
interface Item {
  node: { checkPermissionPrivate(context: ISessionContext | null, permission: PermissionType): boolean } | null
  getSessionContext(): ISessionContext | null
  _exceptionBased: boolean
  _set_parameters(parameters: unknown): void
}

/**
 * The package samples each item by a timer unless the client asked for an interval of 0. Our tags' nodes
 * tell of every change: items on them wait for changes, and fold those that come within their
 * sampling interval into one. Whoever may not read a node stays with the timer, which refuses.
 */
export const driveByChange = (server: OPCUAServer) => {
  server.on('create_session', (session: ServerSession) =>
    session.on('new_subscription', (subscription: Subscription) =>
      subscription.on('monitoredItem', (item: MonitoredItem) => {
        if (item.itemToMonitor.attributeId === AttributeIds.Value) waitForChanges(item as unknown as Item)
      }),
    ),
  )
}

/** Only nodes of tags are guarded one by one. */
const waitForChanges = (item: Item) => {
  const { node } = item
  if (!node || !Object.hasOwn(node, 'checkPermissionPrivate')) return
  const mayRead = node.checkPermissionPrivate(item.getSessionContext(), PermissionType.Read)
  item._exceptionBased = mayRead
  item._set_parameters = mayRead ? keepWaiting : keepSampling
}

/*
 * Another sampling interval asked for later changes nothing of this. One function for all items: each
 * with one of its own would be an object of a kind of its own, and ten thousand kinds are slow.
 */
function keepWaiting(this: Item, parameters: unknown) {
  ;(Object.getPrototypeOf(this) as Item)._set_parameters.call(this, parameters)
  this._exceptionBased = true
}
function keepSampling(this: Item, parameters: unknown) {
  ;(Object.getPrototypeOf(this) as Item)._set_parameters.call(this, parameters)
  this._exceptionBased = false
}
