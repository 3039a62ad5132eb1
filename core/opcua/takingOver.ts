import type { DataType } from '../tags/types'

/** What a link to take over a branch is set to. */
export interface TakesOver {
  /** Only nodes of these namespaces; empty: of all. */
  namespaces: readonly string[]
  /** What becomes of tags whose nodes are gone there. */
  gone: 'keep' | 'remove'
}

/** A node with a value, as it was found there. */
export interface FoundNode {
  address: string
  member: string
  type: DataType
  access: 'read' | 'readwrite'
}

/** A tag of the link as it is. */
export interface KnownTag extends FoundNode {
  id: number
  /** It was made by taking over; others are nobody’s but theirs who made them. */
  isTakenOver: boolean
}

/** What has to be done so that there is a tag for each node there. */
export interface TakingPlan<N extends FoundNode> {
  make: N[]
  change: { id: number; type: DataType; access: FoundNode['access'] }[]
  remove: number[]
}

const keyOf = ({ address, member }: Pick<FoundNode, 'address' | 'member'>) => `${address}\n${member}`

/** @param isWhole nothing was left out that could not be looked at: only then is what was not found gone */
export const takingPlan = <N extends FoundNode>(
  { namespaces, gone }: TakesOver,
  found: readonly N[],
  known: Iterable<KnownTag>,
  isWhole: boolean,
): TakingPlan<N> => {
  const wanted = new Map(found.filter(({ address }) => isOf(address, namespaces)).map((node) => [keyOf(node), node]))
  const plan: TakingPlan<N> = { make: [], change: [], remove: [] }
  const there = new Set<string>()
  for (const tag of known) {
    const key = keyOf(tag)
    const like = wanted.get(key)
    if (like) there.add(key)
    if (!tag.isTakenOver) continue
    if (!like) {
      if (isWhole && gone === 'remove') plan.remove.push(tag.id)
    } else if (like.type !== tag.type || like.access !== tag.access) plan.change.push({ id: tag.id, type: like.type, access: like.access })
  }
  for (const [key, node] of wanted) if (!there.has(key)) plan.make.push(node)
  return plan
}

const isOf = (address: string, namespaces: readonly string[]) =>
  namespaces.length === 0 || namespaces.some((uri) => address.startsWith(`nsu=${uri};`))

export const isNothing = ({ make, change, remove }: TakingPlan<FoundNode>) => make.length + change.length + remove.length === 0
