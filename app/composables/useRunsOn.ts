import type { ThingColumn } from '~/components/ThingTable.vue'

/** Where things run, as a column of a list: there where the site has more than one machine. */
export const useRunsOn = () => {
  const live = useLive()
  const nodes = computed(() => new Map((live.status?.nodes ?? []).map(({ id, name }) => [id, name])))
  const columns = computed<ThingColumn[]>(() => (nodes.value.size > 0 ? [{ title: 'Runs on' }] : []))
  const cells = (nodeId: number | null): string[] =>
    nodes.value.size === 0 ? [] : [nodeId === null ? 'here' : (nodes.value.get(nodeId) ?? '—')]
  return { columns, cells }
}
