/**
 * NodeIds as people write them and as we keep them (OPC 10000-6, 5.3.1.10). They are kept with
 * the URI of their namespace, since the index of a namespace is the server's to change at every start.
 */
export type IdentifierKind = 'i' | 's' | 'g' | 'b'

export interface NodeAddress {
  /** Null: the standard's own namespace, index 0. */
  namespace: string | null
  /** Only in what was typed as `ns=`, for which the server must be asked. */
  index: number | null
  kind: IdentifierKind
  identifier: string
}

export type ParsedNode = { ok: true; address: NodeAddress } | { ok: false; problem: string }

const refuse = (problem: string): ParsedNode => ({ ok: false, problem })
const guid = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i
const base64 = /^(?:[a-z0-9+/]{4})*(?:[a-z0-9+/]{2}==|[a-z0-9+/]{3}=)?$/i

/** Understands `nsu=<uri>;s=Name`, `ns=2;i=1001` and `i=2258`; kinds i, s, g and b. */
export const parseNodeAddress = (text: string): ParsedNode => {
  const typed = text.trim()
  if (typed === '') return refuse('Browse for the node, or type its NodeId, such as nsu=urn:port:arm;s=Plug.Position.')
  const withSpace = /^(?:nsu=([^;]*);|ns=([^;]*);)?(.*)$/s.exec(typed)!
  const [, uri, indexText, rest = ''] = withSpace
  if (uri === '') return refuse('Between nsu= and “;” stands the URI of the namespace.')
  if (indexText !== undefined && !(/^\d+$/.test(indexText) && Number(indexText) <= 65_535))
    return refuse(`A namespace index is 0 to 65535, not “${indexText}”.`)
  const kind = /^([isgb])=/.exec(rest)?.[1] as IdentifierKind | undefined
  if (!kind) return refuse('A NodeId ends in i= and a number, s= and a text, g= and a GUID, or b= and Base64.')
  const identifier = rest.slice(2)
  const problem = identifierProblem(kind, identifier)
  if (problem) return refuse(problem)
  const index = indexText === undefined || indexText === '0' ? null : Number(indexText)
  return { ok: true, address: { namespace: uri === standardNamespace ? null : (uri ?? null), index, kind, identifier } }
}

export const standardNamespace = 'http://opcfoundation.org/UA/'

const identifierProblem = (kind: IdentifierKind, identifier: string): string | null => {
  if (identifier === '') return `After ${kind}= stands the identifier.`
  if (kind === 'i' && !(/^\d+$/.test(identifier) && Number(identifier) <= 0xffff_ffff))
    return 'After i= stands a number from 0 to 4294967295.'
  if (kind === 'g' && !guid.test(identifier)) return 'After g= stands a GUID, such as 09087e75-8e5e-499b-954f-f2a9603db28a.'
  if (kind === 'b' && !base64.test(identifier)) return 'After b= stands Base64.'
  if (identifier.length > 4096) return 'An identifier has at most 4096 characters.'
  return null
}

/** The notation that is stored and shown. An index that is not yet resolved stays as typed. */
export const formatNodeAddress = ({ namespace, index, kind, identifier }: NodeAddress): string => {
  const space = namespace !== null ? `nsu=${namespace};` : index !== null ? `ns=${index};` : ''
  return `${space}${kind}=${identifier}`
}

/** Whether it goes by the number of a namespace, which may mean another one at the server's next start. */
export const isNumbered = (text: string): boolean => {
  const parsed = parseNodeAddress(text)
  return parsed.ok && parsed.address.index !== null
}

/** The same node as one server has it now; null when that server has no such namespace. */
export const withIndex = (address: NodeAddress, namespaces: readonly string[]): string | null => {
  const { kind, identifier } = address
  const index = address.namespace === null ? (address.index ?? 0) : namespaces.indexOf(address.namespace)
  if (index < 0 || index >= Math.max(1, namespaces.length)) return null
  return index === 0 ? `${kind}=${identifier}` : `ns=${index};${kind}=${identifier}`
}

/** A NodeId as a server gave it, kept by the URI of its namespace. */
export const withUri = (nodeId: string, namespaces: readonly string[]): string => {
  const parsed = parseNodeAddress(nodeId)
  if (!parsed.ok) return nodeId
  if (parsed.address.index === null) return formatNodeAddress(parsed.address)
  const namespace = namespaces[parsed.address.index]
  return namespace ? formatNodeAddress({ ...parsed.address, namespace, index: null }) : nodeId
}
