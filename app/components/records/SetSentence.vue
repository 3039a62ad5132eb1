<script setup lang="ts">
import type { RecordSetDraft } from '#core/records/settings'
import {
  againText,
  columnsText,
  fromText,
  movesText,
  orderText,
  routineText,
  rowsText,
  runsText,
  startText,
  takeText,
  whenText,
  writesText,
} from '#core/records/words'
import type { RecordSetPreview } from '#shared/records/recordSet'

/** What a record set does, as a sentence whose parts are pressed to be edited. */
const draft = defineModel<RecordSetDraft>({ required: true })
const props = defineProps<{
  isNew: boolean
  preview: RecordSetPreview | null
  wrong(prefix: string): boolean
  messageFor(path: string): string
}>()
defineEmits<{ left: [path: string] }>()

interface Part {
  /** What stands before it. */
  lead: string
  panel: string
  text: string
  /** The fields that it is about. */
  fields: string[]
}

const parts = computed((): Part[] => {
  const { how } = draft.value
  const tail: Part[] = [
    {
      lead: ', as tags below',
      panel: 'place',
      text: draft.value.folder || 'a folder',
      fields: ['folder', 'nulls', 'how.gone', 'how.most'],
    },
  ]
  switch (how.kind) {
    case 'snapshot':
      return [
        { lead: 'Take every row of', panel: 'from', text: fromText(how.from), fields: ['how.from', 'linkId'] },
        { lead: ', of it', panel: 'columns', text: columnsText(how.columns), fields: ['how.columns'] },
        { lead: ', each named by', panel: 'key', text: how.key || 'its number', fields: ['how.key', 'how.order'] },
        { lead: ', read again', panel: 'again', text: againText(how.again), fields: ['how.again'] },
        { lead: ', and write back', panel: 'writes', text: writesText(how.writes), fields: ['how.writes'] },
        ...tail,
      ]
    case 'cursor':
      return [
        { lead: 'Point at one row of', panel: 'from', text: fromText(how.from), fields: ['how.from', 'linkId'] },
        { lead: ', of it', panel: 'columns', text: columnsText(how.columns), fields: ['how.columns'] },
        { lead: ', in the order of', panel: 'key', text: orderText(how), fields: ['how.key', 'how.order', 'how.descending', 'how.starts'] },
        { lead: ', read again', panel: 'again', text: againText(how.again), fields: ['how.again'] },
        { lead: ', let consumers move it', panel: 'moves', text: movesText(how), fields: ['how.moves'] },
        { lead: ', and write back', panel: 'writes', text: writesText(how.writes), fields: ['how.writes'] },
        ...tail,
      ]
    case 'procedure':
      return [
        { lead: 'Call', panel: 'routine', text: routineText(how), fields: ['how.routine', 'how.schema', 'linkId'] },
        { lead: ' with, to begin with,', panel: 'start', text: startText(how), fields: ['how.start'] },
        { lead: ', run it', panel: 'runs', text: runsText(how), fields: ['how.atOnce'] },
        { lead: ', and take', panel: 'rows', text: rowsText(how.rows), fields: ['how.rows'] },
        ...tail,
      ]
    case 'query':
      return [
        {
          lead: 'Ask',
          panel: 'statement',
          text: how.statement.replace(/\s+/g, ' ').slice(0, 80) || 'a statement',
          fields: ['how.statement', 'linkId'],
        },
        { lead: ' with', panel: 'take', text: takeText(how), fields: ['how.take'] },
        { lead: ', when', panel: 'when', text: whenText(how), fields: ['how.when'] },
        { lead: ', and take', panel: 'rows', text: rowsText(how.rows), fields: ['how.rows', 'how.key'] },
        ...tail,
      ]
  }
})

const open = ref<string | null>(props.isNew ? parts.value[0]!.panel : null)
const press = (panel: string) => (open.value = open.value === panel ? null : panel)
const rowsParts = ['from', 'columns', 'key', 'writes'] as const
const rowsPart = computed(() => rowsParts.find((part) => part === open.value && 'from' in draft.value.how) ?? null)
</script>

<template>
  <p class="words">
    <template v-for="part in parts" :key="part.panel">
      <strong>{{ part.lead }}</strong>{{ ' '
      }}<SentencePart :text="part.text" :open="open === part.panel" :wrong="part.fields.some(wrong)" @press="press(part.panel)" />
    </template>
  </p>
  <SentencePanel v-if="open" @done="open = null">
    <SetPlacePanel v-if="open === 'place'" v-model="draft" :message-for="messageFor" @left="$emit('left', $event)" />
    <SetRowsPanel
      v-else-if="rowsPart"
      :key="open"
      v-model="draft"
      :part="rowsPart"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <SetAgainPanel
      v-else-if="open === 'again' || open === 'moves'"
      :key="open"
      v-model="draft"
      :part="open"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <SetProcedurePanel
      v-else-if="draft.how.kind === 'procedure'"
      :key="open"
      v-model="draft"
      :part="open"
      :parameters="preview?.parameters ?? []"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <SetQueryPanel v-else :key="open" v-model="draft" :part="open" :message-for="messageFor" @left="$emit('left', $event)" />
  </SentencePanel>
</template>

<style scoped>
.words {
  margin: 0;
  font-size: 15px;
  line-height: 36px;
}
.words strong {
  font-weight: 600;
}
</style>
