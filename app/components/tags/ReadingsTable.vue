<script setup lang="ts">
import type { ReadingRow } from '#shared/values'

/** The same words in every plausible type and order, side by side; one press takes the one that matches. */
const props = defineProps<{ readings: ReadingRow[]; from: string; canChoose?: boolean }>()
defineEmits<{ choose: [reading: ReadingRow] }>()
const all = ref(false)
const shown = computed(() => (all.value ? props.readings : props.readings.filter((reading) => reading.plausible || reading.inUse)))
</script>

<template>
  <section v-if="readings.length">
    <h3 class="sheet-title">
      Readings of the same words <span class="quiet light">{{ from }}</span>
    </h3>
    <div class="box">
      <table class="rows">
        <tbody>
          <tr v-for="reading in shown" :key="reading.label" :class="{ used: reading.inUse }">
            <td class="mono">{{ reading.label }}</td>
            <td class="number">{{ reading.text }}</td>
            <td class="last">
              <span v-if="reading.inUse" class="quiet">in use</span>
              <button v-else-if="canChoose" type="button" class="use" @click="$emit('choose', reading)">use this</button>
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
.box {
  border: 1px solid var(--line);
  border-radius: 6px;
  margin: 6px 0;
  overflow: hidden;
}
td {
  padding-block: 3px;
}
.used {
  background: var(--tint);
}
.last {
  width: 70px;
  text-align: right;
}
.use {
  color: var(--primary);
  font-size: 12px;
  text-decoration: underline;
}
</style>
