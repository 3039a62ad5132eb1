<script setup lang="ts">
import { namesIn } from '#core/endpoints/paths'
import { parameterContract, type Endpoint, type Parameter } from '#core/endpoints/settings'

/** What an endpoint is asked with, each with its type and limits; what is only in the path is text. */
const parameters = defineModel<Parameter[]>({ required: true })
const props = defineProps<{ endpoint: Endpoint; path: string; messageFor(path: string): string }>()
defineEmits<{ left: [path: string] }>()

const at = (i: number, field: string) => `${props.path}.${i}.${field}`
const message = (i: number) =>
  ['name', 'in', 'type', 'required', 'least', 'most', 'choices'].map((field) => props.messageFor(at(i, field))).find(Boolean) ?? ''
const places = computed(() =>
  [
    { value: 'path' as const, title: 'path' },
    { value: 'query' as const, title: 'query' },
    { value: 'header' as const, title: 'header' },
    { value: 'body' as const, title: 'body' },
  ].filter(({ value }) => value !== 'body' || props.endpoint.method !== 'GET'),
)
const types = [
  { value: 'text' as const, title: 'text' },
  { value: 'whole' as const, title: 'whole number' },
  { value: 'number' as const, title: 'number' },
  { value: 'truth' as const, title: 'true or false' },
  { value: 'time' as const, title: 'time' },
]
const unnamed = computed(() => namesIn(props.endpoint.path).filter((name) => !parameters.value.some((one) => one.name === name)))
const add = (name = '') => {
  const [first] = unnamed.value
  const wanted = name || first
  const made = wanted
    ? parameterContract.parse({ name: wanted, in: 'path' })
    : { ...parameterContract.parse({ name: 'x' }), name: '', in: 'query' as const }
  parameters.value.push(made)
}
const listText = (choices: readonly string[]) => choices.join(', ')
const listOf = (text: string) =>
  text
    .split(',')
    .map((one) => one.trim())
    .filter(Boolean)
const numberOf = (text: string) => (text.trim() === '' || !Number.isFinite(Number(text)) ? null : Number(text))
</script>

<template>
  <div class="given">
    <span class="label">Parameters</span>
    <p v-if="unnamed.length" class="quiet">
      In the path, as text:
      <button v-for="name in unnamed" :key="name" type="button" class="chip mono" :title="`Give ${name} a type`" @click="add(name)">
        {{ name }}
      </button>
    </p>
    <div v-for="(one, i) in parameters" :key="i" class="one">
      <TextField
        v-model="one.name"
        :label="`Parameter ${i + 1}`"
        mono
        :message="messageFor(at(i, 'name'))"
        @left="$emit('left', at(i, 'name'))"
      />
      <ChoiceField v-model="one.in" label="Stands in the" :choices="places" :message="messageFor(at(i, 'in'))" />
      <ChoiceField v-model="one.type" label="Type" :choices="types" />
      <TextField
        :model-value="listText(one.choices)"
        label="One of"
        placeholder="any"
        mono
        @update:model-value="one.choices = listOf($event)"
      />
      <TextField
        v-if="one.type !== 'truth' && one.type !== 'time'"
        :model-value="one.least === null ? '' : String(one.least)"
        :label="one.type === 'text' ? 'Characters, least' : 'Least'"
        placeholder="no limit"
        mono
        @update:model-value="one.least = numberOf($event)"
      />
      <TextField
        v-if="one.type !== 'truth' && one.type !== 'time'"
        :model-value="one.most === null ? '' : String(one.most)"
        :label="one.type === 'text' ? 'Characters, most' : 'Most'"
        placeholder="no limit"
        mono
        :message="messageFor(at(i, 'most'))"
        @update:model-value="one.most = numberOf($event)"
      />
      <v-checkbox v-if="one.in !== 'path'" v-model="one.required" label="Has to be given" hide-details />
      <v-btn height="24" class="drop" @click="parameters.splice(i, 1)">Drop</v-btn>
      <p v-if="message(i)" class="is-broken wide">{{ message(i) }}</p>
    </div>
    <v-btn height="26" class="add" @click="add()">Add a parameter</v-btn>
  </div>
</template>

<style scoped>
.given {
  display: grid;
  gap: 8px;
}
.one {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 8px;
  padding: 8px 10px;
  border-left: 2px solid var(--line);
}
.wide {
  grid-column: 1 / -1;
}
.drop,
.add {
  justify-self: start;
}
p {
  margin: 0;
}
</style>
