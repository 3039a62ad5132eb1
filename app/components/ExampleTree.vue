<script setup lang="ts">
import { jsonpath } from 'json-p3'
import { parseJson } from '#core/messages/json'
import { partsIn, type Part } from '#core/messages/parts'

/** A message or an answer as an outline: pressing a part makes the path to it, and what a path matches stands out. */
const path = defineModel<string>({ required: true })
const props = defineProps<{ text: string; label: string; many?: boolean }>()
const emit = defineEmits<{ pressed: [part: Part] }>()

const mostShown = 400
const read = computed(() => {
  try {
    return { ok: true as const, value: parseJson(props.text) }
  } catch (error) {
    return { ok: false as const, problem: (error as Error).message }
  }
})
const closed = ref(new Set<string>())
const fold = (at: string) => {
  const next = new Set(closed.value)
  if (!next.delete(at)) next.add(at)
  closed.value = next
}

interface Row extends Part {
  depth: number
}
const rows = computed<Row[]>(() => {
  const shown: Row[] = []
  const walk = (part: Pick<Part, 'path' | 'names' | 'value'>, depth: number) => {
    for (const inner of partsIn(part)) {
      if (shown.length >= mostShown) return
      shown.push({ ...inner, depth })
      if (inner.opens && !closed.value.has(inner.path)) walk(inner, depth + 1)
    }
  }
  if (read.value.ok) walk({ path: '$', names: [], value: read.value.value }, 0)
  return shown
})

/** What the path gives, so that it is seen before it is saved. */
const matched = computed<ReadonlySet<unknown> | null>(() => {
  if (!read.value.ok || path.value === '') return null
  try {
    const nodes = jsonpath.compile(path.value).query(read.value.value as never)
    return new Set(nodes.nodes.map((node) => node.path))
  } catch {
    return null
  }
})
const normal = (at: string) => jsonpath.compile(at).query((read.value.ok ? read.value.value : null) as never).nodes[0]?.path
const isMatched = (at: string) => matched.value?.has(normal(at)) ?? false
const press = (part: Part) => {
  path.value = part.path
  emit('pressed', part)
}
const shortly = (value: unknown) => {
  const text = JSON.stringify(value, (_, part: unknown) => (typeof part === 'bigint' ? Number(part) : part)) ?? ''
  return text.length > 60 ? `${text.slice(0, 60)}…` : text
}
const sizeText = (value: unknown) => (Array.isArray(value) ? `${value.length} in a list` : `${Object.keys(value as object).length} inside`)
</script>

<template>
  <div class="example">
    <p v-if="!read.ok" class="quiet">No JSON: {{ read.problem }}</p>
    <template v-else>
      <p v-if="matched && matched.size !== 1 && !(many && matched.size > 0)" class="is-late">
        {{ matched.size === 0 ? 'The path gives nothing here.' : `The path gives ${matched.size} values; one is taken.` }}
      </p>
      <div class="tree" role="tree" :aria-label="label">
        <div
          v-for="row in rows"
          :key="row.path"
          class="row"
          role="treeitem"
          :aria-selected="isMatched(row.path)"
          :class="{ matched: isMatched(row.path) }"
        >
          <button
            v-if="row.opens"
            type="button"
            class="turn mono"
            :style="{ marginLeft: `${row.depth * 16}px` }"
            :aria-label="`Fold ${row.path}`"
            @click="fold(row.path)"
          >
            {{ closed.has(row.path) ? '+' : '–' }}
          </button>
          <span v-else class="turn" :style="{ marginLeft: `${row.depth * 16}px` }" />
          <button type="button" class="part" :title="row.path" @click="press(row)">
            <span class="mono">{{ row.names.at(-1) }}</span>
            <span v-if="row.opens" class="quiet">{{ sizeText(row.value) }}</span>
            <span v-else class="mono value">{{ shortly(row.value) }}</span>
          </button>
        </div>
        <p v-if="rows.length >= mostShown" class="quiet">Only the first {{ mostShown }} parts are shown.</p>
      </div>
    </template>
  </div>
</template>

<style scoped>
.tree {
  max-height: 280px;
  overflow: auto;
  padding: 4px 0;
  border: 1px solid var(--line);
  border-radius: 6px;
  font-size: 12px;
}
.row {
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 0 8px;
}
.row:hover {
  background: var(--tint);
}
.matched {
  background: var(--tint);
  box-shadow: inset 3px 0 0 var(--flow);
}
.turn {
  flex: none;
  width: 16px;
  text-align: center;
}
.part {
  display: flex;
  flex: 1;
  gap: 10px;
  min-width: 0;
  padding: 2px 0;
  text-align: left;
}
.value {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--primary);
}
p {
  margin: 0 0 4px;
}
</style>
