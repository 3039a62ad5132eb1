<script setup lang="ts">
import { delimiters } from '#core/formats/csv/dialect'
import { encodings } from '#core/formats/csv/encoding'
import { decimalSigns } from '#core/formats/csv/numbers'
import { counted } from '#core/text/counted'
import type { ImportSettings, ImportStatus } from '#shared/imports'

/** How the file is read, as a sentence whose words can be changed. */
const props = defineProps<{ status: ImportStatus }>()
const emit = defineEmits<{ change: [settings: Partial<ImportSettings>] }>()

const delimiterText = { ',': ',', ';': ';', '\t': 'tab', '|': '|' }
const found = computed(() => props.status.found)
const words = computed(() => [
  {
    key: 'delimiter' as const,
    label: 'Between cells',
    after: 'between cells',
    now: found.value?.delimiter,
    choices: delimiters.map((value) => ({ value, title: delimiterText[value] })),
  },
  {
    key: 'decimal' as const,
    label: 'Decimal sign',
    after: 'decimal sign',
    now: found.value?.decimal,
    choices: decimalSigns.map((value) => ({ value, title: `1${value}5` })),
  },
  {
    key: 'encoding' as const,
    label: 'Encoding',
    after: '',
    now: found.value?.encoding,
    choices: encodings.map((value) => ({ value, title: value })),
  },
  {
    key: 'header' as const,
    label: 'First line',
    after: '',
    now: found.value?.header,
    choices: [
      { value: true, title: 'first line names the columns' },
      { value: false, title: 'no line names the columns' },
    ],
  },
])
const titleOf = (word: (typeof words.value)[number]) => word.choices.find(({ value }) => value === word.now)?.title ?? '…'
/** Other cells or another header mean other columns. */
const choose = (key: keyof ImportSettings, value: unknown) =>
  emit('change', { [key]: value, ...(key === 'decimal' ? {} : { columns: null }) })
</script>

<template>
  <span class="way quiet">
    <span>{{ counted(status.lines, 'line') }}</span>
    <template v-for="word in words" :key="word.key">
      <span aria-hidden="true">·</span>
      <v-menu>
        <template #activator="{ props: activator }">
          <button type="button" class="word mono" v-bind="activator" :aria-label="`${word.label}: ${titleOf(word)}`">
            {{ titleOf(word) }}
          </button>
        </template>
        <v-list density="compact">
          <v-list-item
            v-for="choice in word.choices"
            :key="String(choice.value)"
            :title="choice.title"
            :active="choice.value === word.now"
            @click="choose(word.key, choice.value)"
          />
        </v-list>
      </v-menu>
      <span v-if="word.after">{{ word.after }}</span>
    </template>
  </span>
</template>

<style scoped>
.way {
  display: inline-flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
}
.word {
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 2px 8px;
  background: var(--surface);
  color: var(--ink);
}
.word:hover,
.word:focus-visible {
  border-color: var(--primary);
  outline: none;
}
</style>
