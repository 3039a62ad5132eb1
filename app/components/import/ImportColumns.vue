<script setup lang="ts">
import type { ImportSettings, ImportStatus } from '#shared/imports'
import { newPath, usualColumns } from '#shared/tagCsv/header'

/** What stands in each column of the file, where its name alone does not say it. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ status: ImportStatus }>()
const emit = defineEmits<{ change: [settings: Partial<ImportSettings>] }>()

const chosen = ref<(string | null)[]>([])
watch(open, (isOpen) => {
  if (isOpen) chosen.value = props.status.found?.columns.map(({ column }) => column) ?? []
})
const choices = [
  { value: null, title: 'left out' },
  ...[...usualColumns, newPath].map((value) => ({ value, title: value.replaceAll('_', ' ') })),
]
/** Each of ours stands in one column at most: who takes it has it. */
const choose = (index: number, value: string | null) => {
  chosen.value = chosen.value.map((other, i) => (i === index ? value : other === value ? null : other))
}
const read = () => {
  open.value = false
  emit('change', { columns: chosen.value as ImportSettings['columns'] })
}
</script>

<template>
  <v-dialog v-model="open" max-width="560" aria-label="Columns of the file">
    <div class="sheet dialog">
      <h2 class="sheet-title">Columns of the file</h2>
      <div class="list">
        <template v-for="(column, index) in status.found?.columns ?? []" :key="index">
          <span class="mono title">{{ column.title || '(no name)' }}</span>
          <v-select
            :model-value="chosen[index] ?? null"
            :items="choices"
            :aria-label="`What “${column.title}” is`"
            @update:model-value="choose(index, $event)"
          />
        </template>
      </div>
      <div class="buttons">
        <v-btn variant="flat" :disabled="!chosen.includes('path')" @click="read">Read it so</v-btn>
        <v-btn @click="open = false">Leave it</v-btn>
        <span v-if="!chosen.includes('path')" class="quiet">One of them has to be the path.</span>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.dialog {
  display: flex;
  flex-direction: column;
  padding: 18px 20px;
  max-height: 80vh;
}
.list {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 6px 12px;
  align-items: center;
  overflow-y: auto;
  margin: 12px 0;
}
.title {
  overflow-wrap: anywhere;
}
.buttons {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
