<script setup lang="ts">
import { tagColumns } from '#shared/tagCsv/columns'
import { newPath } from '#shared/tagCsv/header'

/** Where a table comes in: chosen, dropped, or pasted from a spreadsheet. */
const emit = defineEmits<{ file: [name: string, body: Blob] }>()
defineProps<{ busy: boolean }>()
const chooser = ref<HTMLInputElement | null>(null)
const isOver = ref(false)

const take = (files: FileList | null | undefined) => {
  const [file] = files ?? []
  if (file) emit('file', file.name, file)
}
const drop = (event: DragEvent) => {
  isOver.value = false
  take(event.dataTransfer?.files)
}
const paste = (event: ClipboardEvent) => {
  if ((event.target as HTMLElement).tagName === 'INPUT') return
  const { files } = event.clipboardData ?? {}
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (files && files.length > 0) take(files)
  else if (text.trim() !== '') emit('file', 'pasted', new Blob([text]))
}
onMounted(() => window.addEventListener('paste', paste))
onUnmounted(() => window.removeEventListener('paste', paste))

const columns = [
  ...tagColumns.map(({ name, about }) => ({ name, about })),
  { name: newPath, about: 'Where a tag goes that is renamed. Empty: it stays.' },
]
</script>

<template>
  <div class="start">
    <section
      class="sheet drop"
      :class="{ over: isOver }"
      @dragover.prevent="isOver = true"
      @dragleave="isOver = false"
      @drop.prevent="drop"
    >
      <h2>A table of tags</h2>
      <p class="quiet">
        Drop a file here, paste rows from a spreadsheet, or choose a file. Delimiter, decimal sign and encoding are found out; nothing is
        changed before you have seen what it comes to.
      </p>
      <div class="buttons">
        <BusyButton variant="flat" :busy="busy" @click="chooser?.click()">Choose a file</BusyButton>
        <v-btn to="/tags">Back to the tags</v-btn>
      </div>
      <input
        ref="chooser"
        class="visually-hidden"
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        aria-label="File with tags"
        tabindex="-1"
        @change="take(chooser?.files)"
      />
    </section>
    <section class="sheet reference">
      <h2 class="sheet-title part">Columns <span class="quiet light">only those that the table has are touched</span></h2>
      <table class="rows" aria-label="Columns">
        <tbody>
          <tr v-for="column in columns" :key="column.name">
            <td class="mono name">{{ column.name }}</td>
            <td>{{ column.about }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.start {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 7fr);
  gap: 16px;
  align-items: start;
}
.drop {
  padding: 36px 40px;
  border-style: dashed;
}
.drop.over {
  border-color: var(--primary);
  background: var(--tint);
}
h2:not(.sheet-title) {
  font-size: 17px;
  font-weight: 600;
  margin: 0;
}
p {
  margin: 6px 0 18px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
.part {
  padding: 12px 14px 8px;
}
.light {
  font-weight: 400;
  margin-left: 6px;
}
.name {
  white-space: nowrap;
  width: 1%;
}
</style>
