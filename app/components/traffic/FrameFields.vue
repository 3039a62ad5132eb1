<script setup lang="ts">
import type { FrameField } from '#core/traffic/told'

/** What the bytes of a frame mean: fields over bytes; one that is looked at is marked in both. */
const props = defineProps<{ fields: readonly FrameField[]; data: Uint8Array }>()
const emit = defineEmits<{ only: [field: { name: string; means: string }] }>()
const mostShown = 512
const mostFields = 300
const chosen = ref<number | null>(null)
watch(
  () => props.data,
  () => (chosen.value = null),
)
const shown = computed(() => props.fields.slice(0, mostFields))
const bytes = computed(() => Array.from(props.data.subarray(0, mostShown), (byte) => byte.toString(16).toUpperCase().padStart(2, '0')))
/** Which field a byte belongs to: the last that holds it, for those within others come after them. */
const fieldAt = (at: number) => shown.value.findLastIndex((field) => at >= field.at && at < field.at + field.length)
const isMarked = (at: number) => {
  const field = chosen.value === null ? undefined : shown.value[chosen.value]
  return field !== undefined && at >= field.at && at < field.at + field.length
}
const mostOfOne = 6
const bytesOf = ({ at, length }: FrameField) =>
  bytes.value.slice(at, at + Math.min(length, mostOfOne)).join(' ') + (length > mostOfOne ? ' …' : '')
</script>

<template>
  <div>
    <table class="fields" aria-label="Fields">
      <thead>
        <tr>
          <th>Field</th>
          <th>Bytes</th>
          <th>Means</th>
          <th><span class="visually-hidden">Filter</span></th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(field, i) in shown"
          :key="i"
          :class="{ marked: i === chosen, wrong: field.isWrong }"
          @mouseenter="chosen = i"
          @mouseleave="chosen = null"
        >
          <td>{{ field.name }}</td>
          <td class="mono">{{ bytesOf(field) }}</td>
          <td class="means">{{ field.means }}</td>
          <td>
            <button
              type="button"
              class="only"
              :title="`Only frames whose ${field.name} is ${field.means}`"
              @click="emit('only', field)"
              @focus="chosen = i"
            >
              only
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="fields.length > mostFields" class="quiet">and {{ fields.length - mostFields }} fields more</p>
    <p class="mono bytes">
      <span
        v-for="(byte, at) in bytes"
        :key="at"
        :class="{ marked: isMarked(at) }"
        @mouseenter="chosen = fieldAt(at) < 0 ? null : fieldAt(at)"
        @mouseleave="chosen = null"
        >{{ byte }}{{ ' ' }}</span
      >
      <span v-if="data.length > mostShown" class="quiet">and {{ data.length - mostShown }} more</span>
    </p>
  </div>
</template>

<style scoped>
.fields {
  width: 100%;
  border-collapse: collapse;
}
th {
  color: var(--quiet);
  font-weight: 500;
  text-align: left;
}
th,
td {
  padding: 4px 10px 4px 0;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
td.mono {
  white-space: nowrap;
  font-size: 12.5px;
}
.means {
  overflow-wrap: anywhere;
}
.only {
  color: var(--quiet);
  font-size: 12px;
  text-decoration: underline;
}
.bytes {
  margin: 12px 0;
  padding: 8px 10px;
  border: 1px solid var(--line);
  border-radius: 4px;
  font-size: 12.5px;
  line-height: 1.7;
}
.marked {
  background: var(--tint);
}
.wrong .means {
  color: var(--break);
}
</style>
