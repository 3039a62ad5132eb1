<script setup lang="ts">
import { gainTo, parseFaceplate } from '#core/readings/faceplate'
import type { ReadingRow } from '#shared/values'

/**
 * The same words in every plausible form, side by side, with what speaks for and against each; one press takes the one
 * that matches. What somebody reads from the faceplate of the instrument brings that to the top.
 */
const props = defineProps<{ readings: ReadingRow[]; from: string; canChoose?: boolean; noFaceplate?: boolean }>()
defineEmits<{ choose: [reading: ReadingRow] }>()
const all = ref(false)
const faceplate = ref('')
const typed = computed(() => parseFaceplate(faceplate.value))
const matched = computed(() =>
  props.readings.map((reading) => ({ reading, gain: typed.value && reading.value !== null ? gainTo(reading.value, typed.value) : null })),
)
const shown = computed(() => {
  const likely = matched.value.filter(({ reading, gain }) => all.value || gain !== null || reading.plausible || reading.inUse)
  return likely.toSorted((a, b) => Number(b.gain !== null) - Number(a.gain !== null))
})
const message = computed(() => {
  if (faceplate.value.trim() === '') return ''
  if (!typed.value) return 'A number, as it stands on the faceplate.'
  return matched.value.some(({ gain }) => gain !== null)
    ? ''
    : 'No reading of these words gives that, also not ten, a hundred or a thousand times.'
})
const gainText = (gain: number) => (gain === 1 ? 'as on the faceplate' : `as on the faceplate, with a gain of ${gain}`)
</script>

<template>
  <section v-if="readings.length">
    <h3 class="sheet-title">
      Readings of the same words <span class="quiet light">{{ from }}</span>
    </h3>
    <TextField
      v-if="!noFaceplate"
      v-model="faceplate"
      label="What the faceplate shows"
      mono
      placeholder="70.3"
      :message="message"
      class="faceplate"
    />
    <div class="box">
      <table class="rows" aria-label="Readings of the same words">
        <tbody>
          <tr v-for="{ reading, gain } in shown" :key="reading.label" :class="{ used: reading.inUse }">
            <td>
              <span class="mono">{{ reading.label }}</span>
              <small v-if="gain !== null" class="for">{{ gainText(gain) }}</small>
              <small v-for="reason in reading.reasons" :key="reason.text" :class="reason.speaks">{{ reason.text }}</small>
            </td>
            <td class="number value">{{ reading.text }}</td>
            <td class="last">
              <span v-if="reading.inUse" class="quiet">in use</span>
              <button v-else-if="canChoose && reading.takes" type="button" class="use" @click="$emit('choose', reading)">use this</button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <button v-if="shown.length < readings.length || all" type="button" class="use" @click="all = !all">
      {{ all ? 'only the likely ones' : `show all ${readings.length}` }}
    </button>
  </section>
</template>

<style scoped>
.light {
  font-weight: 400;
}
.faceplate {
  max-width: 220px;
  margin: 6px 0;
}
.box {
  border: 1px solid var(--line);
  border-radius: 6px;
  margin: 6px 0;
  overflow: hidden;
}
td {
  padding-block: 3px;
  vertical-align: top;
}
small {
  display: block;
  line-height: 1.3;
}
.for {
  color: var(--flow);
}
.against {
  color: var(--copper);
}
.value {
  overflow-wrap: anywhere;
}
.used {
  background: var(--tint);
}
.last {
  width: 64px;
  text-align: right;
}
.use {
  color: var(--primary);
  font-size: 12px;
  text-decoration: underline;
}
</style>
