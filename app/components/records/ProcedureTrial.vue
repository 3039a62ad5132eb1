<script setup lang="ts">
import type { RecordSetPreview } from '#shared/records/recordSet'

/** Runs a procedure once before it is saved: only that tells what comes of it. */
defineProps<{ parameters: RecordSetPreview['parameters']; busy: boolean }>()
const emit = defineEmits<{ run: [given: Record<string, string>] }>()
const given = ref<Record<string, string>>({})
</script>

<template>
  <section class="sheet trial" aria-label="Try it">
    <h2 class="sheet-title">Try it</h2>
    <p class="quiet">What comes of it is known once it ran. It does there what it does: choose values that do no harm.</p>
    <div class="fields">
      <TextField
        v-for="parameter in parameters"
        :key="parameter.name"
        :model-value="given[parameter.name] ?? ''"
        :label="`${parameter.name}, ${parameter.declared}`"
        mono
        @update:model-value="given[parameter.name] = $event"
      />
    </div>
    <BusyButton :busy="busy" @click="emit('run', given)">Run it once</BusyButton>
  </section>
</template>

<style scoped>
.trial {
  margin-top: 12px;
  padding: 12px 16px 14px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
  gap: 12px;
  margin-bottom: 12px;
}
p {
  margin: 4px 0 10px;
}
</style>
