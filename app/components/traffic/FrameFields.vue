<script setup lang="ts">
import type { FrameField } from '#core/traffic/told'

/** What the bytes of a frame mean: fields over bytes; one that is looked at is marked in both. */
const props = defineProps<{ fields: FrameField[]; data: Uint8Array }>()
const mostShown = 512
const chosen = ref<number | null>(null)
watch(
  () => props.data,
  () => (chosen.value = null),
)
const bytes = computed(() => Array.from(props.data.subarray(0, mostShown), (byte) => byte.toString(16).toUpperCase().padStart(2, '0')))
/** Which field a byte belongs to: the last that holds it, for those within others come after them. */
const fieldAt = (at: number) => props.fields.findLastIndex((field) => at >= field.at && at < field.at + field.length)
const isMarked = (at: number) => {
  const field = chosen.value === null ? undefined : props.fields[chosen.value]
  return field !== undefined && at >= field.at && at < field.at + field.length
}
const mostOfOne = 8
const bytesOf = ({ at, length }: FrameField) =>
  bytes.value.slice(at, at + Math.min(length, mostOfOne)).join(' ') + (length > mostOfOne ? ' …' : '')
</script>

<template>
  <div class="both">
    <table class="fields" aria-label="Fields">
      <thead>
        <tr>
          <th>Field</th>
          <th>Bytes</th>
          <th>Means</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(field, i) in fields"
          :key="i"
          :class="{ marked: i === chosen, wrong: field.isWrong }"
          @mouseenter="chosen = i"
          @mouseleave="chosen = null"
        >
          <td>{{ field.name }}</td>
          <td class="mono">{{ bytesOf(field) }}</td>
          <td>{{ field.means }}</td>
        </tr>
      </tbody>
    </table>
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
.both {
  display: grid;
  grid-template-columns: minmax(0, 1.4fr) minmax(0, 1fr);
  gap: 16px;
  max-height: 230px;
  overflow: auto;
}
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
  padding: 3px 10px 3px 0;
  vertical-align: top;
}
td:last-child {
  overflow-wrap: anywhere;
}
.bytes {
  margin: 0;
  font-size: 12.5px;
  line-height: 1.7;
}
.marked {
  background: var(--tint);
}
.wrong {
  color: var(--break);
}
</style>
