import type { BrowsedNode, Children, Place } from '#shared/browse'

export interface PlaceColumn {
  place: Place
  title: string
  names: readonly string[]
  children: Children | null
  open: BrowsedNode | null
}

interface From {
  children(place: Place): Promise<Children>
  /** What is shown is what was heard so far: what is there stays where it is, and more comes below. */
  listens(): boolean
}

/** Places side by side, each column what is in the one that is open to the left of it. */
export const usePlaceColumns = ({ children, listens }: From) => {
  const columns = ref<PlaceColumn[]>([])
  const problem = shallowRef<Refused | null>(null)

  const load = async (at: number) => {
    const column = columns.value[at]
    if (!column) return
    try {
      const found = await children(column.place)
      const now = columns.value[at]
      if (now?.place === column.place) now.children = listens() ? withNewLast(column.children, found) : found
      problem.value = null
    } catch (error) {
      problem.value = asRefused(error)
    }
  }
  const open = async (at: number, node: BrowsedNode) => {
    const column = columns.value[at]!
    column.open = node
    columns.value.splice(at + 1)
    if (!node.opens) return
    columns.value.push(blank(node, node.name, [...column.names, node.name]))
    await load(at + 1)
    if (node.kind !== 'object' && columns.value[at + 1]?.children?.nodes.length === 0) columns.value.splice(at + 1)
  }
  const begin = async (root: Place, title: string) => {
    columns.value = [blank(root, title, [])]
    await load(0)
  }
  /** Opens the way down as long as there is only one. */
  const openOnly = async () => {
    for (let at = 0; at < 20; at++) {
      const [only, ...others] = columns.value[at]?.children?.nodes ?? []
      if (!only || others.length > 0 || !only.opens) return
      await open(at, only)
    }
  }
  const again = async () => {
    for (let at = 0; at < columns.value.length; at++) await load(at)
  }
  const last = computed(() => {
    const column = columns.value.findLast(({ open: opened }) => opened !== null)
    return column?.open ? { node: column.open, names: [...column.names, column.open.name] } : null
  })
  return { columns, problem, last, load, open, begin, openOnly, again }
}

const blank = (place: Place, title: string, names: readonly string[]): PlaceColumn => ({ place, title, names, children: null, open: null })

const withNewLast = (before: Children | null, { nodes, more }: Children): Children => {
  const known = new Map(nodes.map((node) => [placeKey(node), node]))
  const stay = (before?.nodes ?? []).flatMap((node) => known.get(placeKey(node)) ?? [])
  const there = new Set(stay.map(placeKey))
  return { nodes: [...stay, ...nodes.filter((node) => !there.has(placeKey(node)))], more }
}
