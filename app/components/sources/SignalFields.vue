<script setup lang="ts">
import { signalShapeNames, signalShapes } from '#core/signals/signal'
import type { SignalSource } from '#shared/sources/signal'
import type { Drawn } from '#shared/sources/source'

/** The course of a value that is made here. */
const draft = defineModel<Drawn<SignalSource>>({ required: true })
defineProps<{ messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const shapes = signalShapeNames.map((value) => ({ value, title: value, subtitle: signalShapes[value] }))
const source = computed(() => draft.value.source)
const set = (part: Partial<SignalSource>) => (draft.value.source = { ...source.value, ...part })
const has = (...of: SignalSource['shape'][]) => of.includes(source.value.shape)
type Field = 'low' | 'high' | 'cycle' | 'step' | 'seed' | 'every'
const fields = computed(() => {
  const all: { field: Field; label: string; unit: string; shown: boolean }[] = [
    { field: 'low', label: 'Low', unit: draft.value.unit, shown: !has('noise', 'playback') },
    { field: 'high', label: 'High', unit: draft.value.unit, shown: !has('noise', 'playback') },
    { field: 'cycle', label: 'Starts over after', unit: 'ms', shown: has('ramp', 'sine', 'square') },
    { field: 'step', label: 'Step', unit: draft.value.unit, shown: has('counter', 'walk', 'noise') },
    { field: 'seed', label: 'Seed', unit: '', shown: has('walk', 'noise') },
    { field: 'every', label: 'Changes every', unit: 'ms', shown: true },
  ]
  return all.filter(({ shown }) => shown)
})
const load = async (event: Event) => {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  if (file) set({ recording: await file.text() })
  input.value = ''
}
</script>

<template>
  <ChoiceField :model-value="source.shape" class="wide" label="Shape" :choices="shapes" @update:model-value="set({ shape: $event })" />
  <slot name="type" />
  <div class="fields">
    <TagField
      v-if="has('noise')"
      class="wide"
      :model-value="source.of"
      label="Laid on the tag"
      :message="messageFor('source.of')"
      @update:model-value="set({ of: $event })"
      @left="$emit('left', 'source.of')"
    />
    <NumberField
      v-for="{ field, label, unit } in fields"
      :key="field"
      :model-value="source[field]"
      :label="label"
      :unit="unit"
      :message="messageFor(`source.${field}`)"
      @update:model-value="set({ [field]: $event ?? NaN })"
      @left="$emit('left', `source.${field}`)"
    />
    <div v-if="has('playback')" class="all">
      <label class="label" for="recording">Recording</label>
      <v-textarea
        id="recording"
        :model-value="source.recording"
        rows="5"
        class="mono"
        placeholder="0;20.5&#10;1;20.7&#10;2.5;21"
        :error-messages="messageFor('source.recording')"
        @update:model-value="set({ recording: $event ?? '' })"
        @blur="$emit('left', 'source.recording')"
      />
      <p class="quiet">
        A line for each value: its time (ISO 8601, or seconds) and the value.
        <label class="file"
          >From a CSV file<input type="file" accept=".csv,text/csv,text/plain" class="visually-hidden" @change="load"
        /></label>
      </p>
    </div>
  </div>
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
.fields {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: 14px 12px;
}
.all {
  grid-column: 1 / -1;
}
p {
  margin: 4px 0 0;
  font-size: 12px;
}
.file {
  color: var(--primary);
  text-decoration: underline;
  cursor: pointer;
}
.file:focus-within {
  outline: 2px solid var(--copper);
}
</style>
