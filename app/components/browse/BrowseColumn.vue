<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { behindValue } from '#core/tags/valueNames'
import type { BrowsedNode, Children, PlaceDetails } from '#shared/browse'

/** One level of the far side: what lies in a place, however much it is. */
const props = defineProps<{
  title: string
  children: Children | null
  open: string | null
  detailsOf(node: BrowsedNode): PlaceDetails | undefined
  isPicked(node: BrowsedNode): boolean
}>()
const emit = defineEmits<{
  visible: [nodes: BrowsedNode[]]
  open: [node: BrowsedNode]
  pick: [node: BrowsedNode]
  back: []
  into: []
}>()

const rowHeight = 28
const scroller = ref<HTMLElement | null>(null)
const nodes = computed(() => props.children?.nodes ?? [])
const virtual = useVirtualizer(
  computed(() => ({
    count: nodes.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => rowHeight,
    overscan: 4,
    initialRect: { width: 200, height: 330 },
  })),
)
const visible = computed(() => virtual.value.getVirtualItems().map(({ index, start }) => ({ node: nodes.value[index]!, index, start })))
watch(
  visible,
  (rows) =>
    emit(
      'visible',
      rows.map(({ node }) => node),
    ),
  { immediate: true },
)

const openIndex = computed(() => nodes.value.findIndex((node) => placeKey(node) === props.open))
const aside = (node: BrowsedNode) => {
  const details = props.detailsOf(node)
  if (!details) return ''
  if (details.children !== null && details.children > 0 && details.type === null)
    return `${details.children}${details.childrenMore ? '+' : ''}`
  if (!details.text) return ''
  const behind = behindValue(details.value, { names: details.names ?? [], unit: details.unit })
  return [details.text.length > 18 ? `${details.text.slice(0, 18)}…` : details.text, behind].filter(Boolean).join(' ')
}
const canPick = (node: BrowsedNode) => (props.detailsOf(node)?.type ?? null) !== null

const step = (by: number) => {
  const index = Math.max(0, Math.min(nodes.value.length - 1, openIndex.value + by))
  const node = nodes.value[index]
  if (!node) return
  virtual.value.scrollToIndex(index)
  emit('open', node)
}
const press = (event: KeyboardEvent) => {
  const current = nodes.value[openIndex.value]
  if (event.key === 'ArrowDown') step(1)
  else if (event.key === 'ArrowUp') step(-1)
  else if (event.key === 'ArrowLeft') emit('back')
  else if (event.key === 'ArrowRight') emit('into')
  else if (event.key === ' ' && current && canPick(current)) emit('pick', current)
  else return
  event.preventDefault()
}
</script>

<template>
  <div class="column">
    <div class="title" :title="title">{{ title }}</div>
    <div
      ref="scroller"
      class="list"
      :role="nodes.length > 0 ? 'listbox' : 'group'"
      tabindex="0"
      :aria-label="title"
      :aria-multiselectable="nodes.length > 0 ? true : undefined"
      :aria-busy="children === null"
      data-column
      @keydown="press"
    >
      <p v-if="children === null" class="quiet note">asking…</p>
      <p v-else-if="nodes.length === 0" class="quiet note">nothing inside</p>
      <div :style="{ height: `${virtual.getTotalSize()}px` }" class="space">
        <div
          v-for="{ node, index, start } in visible"
          :key="index"
          class="row"
          role="option"
          :class="{ open: placeKey(node) === open }"
          :aria-selected="isPicked(node)"
          :style="{ transform: `translateY(${start}px)` }"
          @click="emit('open', node)"
        >
          <button
            v-if="canPick(node)"
            type="button"
            class="box"
            :class="{ picked: isPicked(node) }"
            tabindex="-1"
            :aria-label="`${isPicked(node) ? 'Leave out' : 'Take'} ${node.name}`"
            @click.stop="emit('pick', node)"
          />
          <span class="name" :title="node.name">{{ node.name }}</span>
          <span class="aside mono">{{ aside(node) }}</span>
          <span v-if="node.kind === 'method'" class="quiet small">method</span>
          <span v-else-if="node.kind === 'object' || detailsOf(node)?.hasParts" class="quiet" aria-hidden="true">›</span>
        </div>
      </div>
      <p v-if="children?.more" class="quiet note">more there than fit here; find by name</p>
    </div>
  </div>
</template>

<style scoped>
.column {
  display: flex;
  flex-direction: column;
  width: 214px;
  flex: none;
  border-right: 1px solid var(--line);
  min-height: 0;
}
.title {
  padding: 8px 12px;
  font-size: 12px;
  color: var(--quiet);
  border-bottom: 1px solid var(--line-soft);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.list {
  flex: 1;
  overflow-y: auto;
  outline: none;
}
.list:focus-visible {
  box-shadow: inset 0 0 0 2px var(--copper);
}
.space {
  position: relative;
}
.row {
  position: absolute;
  inset-inline: 0;
  height: 28px;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 10px 0 12px;
  cursor: pointer;
}
.row:hover {
  background: rgba(var(--v-theme-on-surface), 0.03);
}
.row.open {
  background: var(--tint);
}
.row.open .name {
  font-weight: 600;
}
.box {
  width: 12px;
  height: 12px;
  flex: none;
  border: 1px solid var(--primary);
  border-radius: 3px;
}
.box.picked {
  background: var(--primary);
}
.name {
  flex: 1;
  min-width: 40px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.aside {
  flex: 0 1 auto;
  font-size: 12px;
  color: var(--quiet);
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.small {
  font-size: 12px;
}
.note {
  margin: 8px 12px;
}
</style>
