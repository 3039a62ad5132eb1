<script setup lang="ts">
import type { ProcedureSettings, RecordSetDraft } from '#core/records/settings'
import type { RecordSetPreview } from '#shared/records/recordSet'

/** Which procedure, what its parameters hold to begin with, when it runs, and what is taken of it. */
const draft = defineModel<RecordSetDraft>({ required: true })
defineProps<{ part: string; parameters: RecordSetPreview['parameters']; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const lists = useLists()

const how = computed(() => draft.value.how as ProcedureSettings)
const links = computed(() => lists.rowLinks.map(({ id, name }) => ({ value: id, title: name })))
const { tables } = useTables(() => draft.value.linkId)
const among = computed(() => tables.value.filter(({ kind }) => kind === 'procedure').map(placeText))
const place = computed({
  get: () => placeText({ schema: how.value.schema, table: how.value.routine }),
  set: (text) => {
    const { schema, table } = placeOfText(text)
    Object.assign(how.value, { schema, routine: table })
  },
})
const startOf = (parameter: string) => String(how.value.start.find((one) => one.parameter === parameter)?.value ?? '')
const setStart = (parameter: string, value: string) => {
  const others = how.value.start.filter((one) => one.parameter !== parameter)
  how.value.start = value === '' ? others : [...others, { parameter, value }]
}
</script>

<template>
  <div class="fields">
    <template v-if="part === 'routine'">
      <ChoiceField v-model="draft.linkId" label="Over" :choices="links" :message="messageFor('linkId')" />
      <SuggestField
        v-model="place"
        class="wide"
        label="Procedure or function"
        :among="among"
        placeholder="reserve_power"
        :message="messageFor('how.routine')"
        @left="emit('left', 'how.routine')"
      />
    </template>
    <template v-else-if="part === 'start'">
      <TextField
        v-for="parameter in parameters"
        :key="parameter.name"
        :model-value="startOf(parameter.name)"
        :label="`${parameter.name}, ${parameter.declared}`"
        mono
        hint="empty: it waits until somebody writes it"
        @update:model-value="setStart(parameter.name, $event)"
      />
      <p v-if="parameters.length === 0" class="quiet whole note">It takes no parameters, or is not known yet.</p>
    </template>
    <v-switch
      v-else-if="part === 'runs'"
      v-model="how.atOnce"
      class="wide"
      label="It also runs when a parameter was written and none is missing"
    />
    <NumberField
      v-else-if="part === 'rows'"
      v-model="how.rows"
      label="Rows of its first result"
      hint="1: a tag for each column"
      :message="messageFor('how.rows')"
      @left="emit('left', 'how.rows')"
    />
  </div>
</template>
