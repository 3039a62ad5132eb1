<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import type { Delimiter } from '#core/formats/csv/dialect'
import { decimalSigns, type DecimalSign } from '#core/formats/csv/numbers'
import { counted } from '#core/text/counted'
import { addressOf } from '#shared/api/operation'
import { tagTable } from '#shared/api/tags'
import { usualColumns } from '#shared/tagCsv/header'
import type { TagFilter } from '~/composables/useTagFilter'

/** Tags to a spreadsheet, and back from it. */
const props = defineProps<{ filter: TagFilter; total: number }>()
const session = useSession()
const open = ref(false)

/** As the last table was made: people stay with their spreadsheet. */
const way = useLocalStorage('table-way', { delimiter: ',' as Delimiter, decimal: '.' as DecimalSign })
const all = ref(true)
const chosen = ref<string[]>([...usualColumns])
const delimiterChoices: { value: Delimiter; title: string }[] = [
  { value: ',', title: 'comma' },
  { value: ';', title: 'semicolon' },
  { value: '\t', title: 'tab' },
  { value: '|', title: 'upright line' },
]
const decimalChoices = decimalSigns.map((value) => ({ value, title: `1${value}5` }))
const ordered = computed(() => usualColumns.filter((name) => chosen.value.includes(name)))
const address = computed(
  () => `/api${addressOf(tagTable, { query: { ...props.filter, ...way.value, columns: all.value ? null : ordered.value.join(',') } })}`,
)
const isClashing = computed(() => way.value.delimiter === way.value.decimal)
</script>

<template>
  <v-menu>
    <template #activator="{ props: activator }">
      <v-btn v-bind="activator">Spreadsheet</v-btn>
    </template>
    <v-list density="compact">
      <v-list-item
        v-if="session.can('configure')"
        title="From a spreadsheet"
        subtitle="see what it changes, then apply"
        to="/tags/import"
      />
      <v-list-item
        title="To a spreadsheet"
        :subtitle="`these ${counted(total, 'tag')}, as CSV`"
        :disabled="total === 0"
        @click="open = true"
      />
    </v-list>
  </v-menu>
  <v-dialog v-model="open" max-width="520" aria-label="To a spreadsheet">
    <div class="sheet dialog">
      <h2 class="sheet-title">{{ counted(total, 'tag') }} as a table</h2>
      <div class="two">
        <ChoiceField v-model="way.delimiter" label="Between cells" :choices="delimiterChoices" />
        <ChoiceField v-model="way.decimal" label="Decimal sign" :choices="decimalChoices" />
      </div>
      <p v-if="isClashing" class="quiet">Numbers with a fraction will stand in quotes; some spreadsheets take them for text.</p>
      <v-checkbox v-model="all" label="All columns that are in use" density="compact" hide-details />
      <div v-if="!all" class="columns" role="group" aria-label="Columns">
        <v-checkbox
          v-for="name in usualColumns"
          :key="name"
          v-model="chosen"
          :value="name"
          :label="name.replaceAll('_', ' ')"
          :disabled="name === 'path'"
          density="compact"
          hide-details
        />
      </div>
      <div class="buttons">
        <v-btn variant="flat" :href="address" download="tags.csv" @click="open = false">Save the file</v-btn>
        <v-btn @click="open = false">Leave it</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.dialog {
  padding: 18px 20px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  margin: 12px 0 6px;
}
.columns {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
}
p {
  margin: 4px 0;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
</style>
