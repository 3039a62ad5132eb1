<script setup lang="ts">
import type { QuerySettings, RecordSetDraft } from '#core/records/settings'
import type { Trigger } from '#core/bridges/settings'

/** A statement, the tags that it names, when it is asked, and how many rows are taken. */
const draft = defineModel<RecordSetDraft>({ required: true })
defineProps<{ part: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const lists = useLists()

const how = computed(() => draft.value.how as QuerySettings)
const links = computed(() => lists.rowLinks.map(({ id, name }) => ({ value: id, title: name })))
const timely = ['period', 'schedule', 'change', 'edge', 'limit'] as const
const setWhen = (i: number, trigger: Trigger) => (how.value.when[i] = trigger as QuerySettings['when'][number])
const addWhen = () => how.value.when.push({ kind: 'change', tag: '', by: null })
const addTake = () => how.value.take.push({ name: `p${how.value.take.length + 1}`, path: '' })
</script>

<template>
  <div v-if="part === 'statement'" class="fields">
    <ChoiceField v-model="draft.linkId" label="Over" :choices="links" :message="messageFor('linkId')" />
    <AreaField
      v-model="how.statement"
      class="whole"
      label="Statement"
      placeholder="select ship, limit_kw from voyage where number = {voyage}"
      hint="What stands in braces is a parameter: its value goes beside the text, and never into it."
      :message="messageFor('how.statement')"
      @left="emit('left', 'how.statement')"
    />
  </div>
  <div v-else-if="part === 'take'" class="list">
    <div v-for="(one, i) in how.take" :key="i" class="pair">
      <TextField
        v-model="one.name"
        label="Name"
        mono
        :message="messageFor(`how.take.${i}.name`)"
        @left="emit('left', `how.take.${i}.name`)"
      />
      <TagField v-model="one.path" label="Tag" :message="messageFor(`how.take.${i}.path`)" @left="emit('left', `how.take.${i}.path`)" />
      <v-btn class="drop" @click="how.take.splice(i, 1)">Drop {{ one.name }}</v-btn>
    </div>
    <span><v-btn @click="addTake">Add a parameter</v-btn></span>
  </div>
  <div v-else-if="part === 'when'" class="list">
    <div v-for="(trigger, i) in how.when" :key="i">
      <TriggerPanel
        :model-value="trigger"
        :kinds="timely"
        label="It is asked when"
        :path="`how.when.${i}`"
        :message-for="messageFor"
        @update:model-value="setWhen(i, $event)"
        @left="emit('left', $event)"
      />
      <v-btn v-if="how.when.length > 1" class="below" @click="how.when.splice(i, 1)">Drop this</v-btn>
    </div>
    <span><v-btn @click="addWhen">or when …</v-btn></span>
  </div>
  <div v-else class="fields">
    <NumberField
      v-model="how.rows"
      label="Rows at most"
      hint="1: a tag for each column of the first"
      :message="messageFor('how.rows')"
      @left="emit('left', 'how.rows')"
    />
    <TextField
      v-if="how.rows !== 1"
      v-model="how.key"
      label="Column that names the rows"
      mono
      hint="empty: they are numbered"
      :message="messageFor('how.key')"
      @left="emit('left', 'how.key')"
    />
  </div>
</template>

<style scoped>
.list {
  display: grid;
  gap: 14px;
}
.pair {
  display: grid;
  grid-template-columns: 160px minmax(0, 1fr) auto;
  gap: 12px;
  align-items: start;
}
.drop {
  margin-top: 20px;
}
.below {
  margin-top: 8px;
}
</style>
