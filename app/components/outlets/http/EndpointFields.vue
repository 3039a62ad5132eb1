<script setup lang="ts">
import { parametersOf, type Endpoint } from '#core/endpoints/settings'
import { methods } from '#core/http/operation'
import { blankStep, exampleFor } from '~/outlets/endpoints'

/** One endpoint of a person’s own: how it is asked, what it does then, and what it answers. */
const endpoint = defineModel<Endpoint>({ required: true })
const props = defineProps<{ number: number; names: readonly string[]; hasProblem: boolean; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string]; drop: [] }>()
const lists = useLists()

const base = computed(() => `settings.endpoints.${props.number - 1}`)
const at = (field: string) => `${base.value}.${field}`
const message = (field: string) => props.messageFor(at(field))
const left = (field: string) => emit('left', at(field))
const isTried = ref(false)
const isOpen = ref(endpoint.value.path === '')
watch(
  () => props.hasProblem,
  (problem) => problem && (isOpen.value = true),
)

const choices = methods.map((method) => ({ value: method, title: method }))
const steps = [
  { value: 'rows' as const, title: 'it looks up in a database' },
  { value: 'tags' as const, title: 'it shows tags' },
  { value: 'message' as const, title: 'it hands a message to bridges' },
]
const answersBy = [
  { value: 'kept' as const, title: 'once the message is kept', subtitle: 'status 202' },
  {
    value: 'outcome' as const,
    title: 'once it is known what became of it',
    subtitle: 'status 200, 202 where it is kept, 502 where it was refused',
  },
]
const missings = [
  { value: 404 as const, title: '404', subtitle: 'with what was not found' },
  { value: 204 as const, title: '204', subtitle: 'and nothing else' },
  { value: 200 as const, title: '200', subtitle: 'with null or an empty list' },
]
const databases = computed(() => lists.rowLinks.map(({ id, name }) => ({ value: id, title: name })))
const chooseStep = (kind: Endpoint['does']['kind']) => {
  endpoint.value.does = blankStep(kind, lists.rowLinks)
  if (kind === 'message' && endpoint.value.method === 'GET') endpoint.value.method = 'POST'
  if (kind === 'tags') endpoint.value.method = 'GET'
}
const addTag = () => endpoint.value.does.kind === 'tags' && endpoint.value.does.values.push({ name: '', path: '' })
const given = computed(() => parametersOf(endpoint.value).map(({ name }) => name))
const by = computed(() => (given.value.length > 0 ? `Of parameters there are ${given.value.map((name) => `{${name}}`).join(', ')}.` : ''))
const who = computed(() => props.names.map((name) => ({ value: name, title: name })))
const isWhole = computed(() => endpoint.value.answer.trim() === '')
</script>

<template>
  <fieldset class="framed">
    <legend class="mono">{{ endpoint.path ? `${endpoint.method} ${endpoint.path}` : `Endpoint ${number}` }}</legend>
    <div v-if="!isOpen" class="closed">
      <span class="quiet">{{ endpoint.about || steps.find(({ value }) => value === endpoint.does.kind)?.title }}</span>
      <v-btn height="26" :aria-label="`Change ${endpoint.method} ${endpoint.path}`" @click="isOpen = true">Change</v-btn>
    </div>
    <template v-else>
      <div class="first">
        <ChoiceField v-model="endpoint.method" label="Method" :choices="choices" :message="message('method')" />
        <TextField
          v-model="endpoint.path"
          label="Path"
          mono
          placeholder="/berths/{berth}/calls/{voyage}"
          :message="message('path')"
          @left="left('path')"
        />
        <TextField
          v-model="endpoint.about"
          class="wide"
          label="What it is for"
          placeholder="Energy that a ship took at a berth"
          :message="message('about')"
          @left="left('about')"
        />
      </div>
      <EndpointParameters
        v-model="endpoint.parameters"
        :endpoint="endpoint"
        :path="at('parameters')"
        :message-for="messageFor"
        @left="emit('left', $event)"
      />
      <ChoiceField :model-value="endpoint.does.kind" label="When it is asked," :choices="steps" @update:model-value="chooseStep" />
      <template v-if="endpoint.does.kind === 'rows'">
        <ChoiceField v-model="endpoint.does.linkId" label="Over" :choices="databases" :message="message('does.linkId')" />
        <p v-if="databases.length === 0" class="is-late">
          No database is linked yet. <NuxtLink to="/links/new?kind=sql">Make a link first.</NuxtLink>
        </p>
        <AreaField
          v-model="endpoint.does.statement"
          label="Statement"
          placeholder="select kwh, arrived from call where berth = {berth} and voyage = {voyage}"
          :hint="`What stands in braces is handed over beside the text. ${by}`"
          :message="message('does.statement')"
          @left="left('does.statement')"
        />
        <div class="first">
          <v-switch v-model="endpoint.does.many" label="All rows" />
          <NumberField v-if="endpoint.does.many" v-model="endpoint.does.most" label="Rows at most" :message="message('does.most')" />
        </div>
      </template>
      <template v-else-if="endpoint.does.kind === 'tags'">
        <div v-for="(one, i) in endpoint.does.values" :key="i" class="pair">
          <TextField
            v-model="one.name"
            :label="`Name ${i + 1} in the answer`"
            mono
            :message="message(`does.values.${i}.name`)"
            @left="left(`does.values.${i}.name`)"
          />
          <TagField
            v-model="one.path"
            :label="`Tag ${i + 1}`"
            :message="message(`does.values.${i}.path`)"
            @left="left(`does.values.${i}.path`)"
          />
          <v-btn v-if="endpoint.does.values.length > 1" height="26" class="drop" @click="endpoint.does.values.splice(i, 1)">Drop</v-btn>
        </div>
        <p class="quiet">A path may hold parameters, as in berth/{berth}/power. {{ by }}</p>
        <v-btn height="26" class="add" @click="addTag">Add a tag</v-btn>
      </template>
      <template v-else>
        <div class="first">
          <TextField
            v-model="endpoint.does.topic"
            label="Topic"
            mono
            placeholder="calls"
            hint="bridges that are set off by a client of this outlet listen to it"
            :message="message('does.topic')"
            @left="left('does.topic')"
          />
          <ChoiceField v-model="endpoint.does.answers" label="It answers" :choices="answersBy" />
          <NumberField v-model="endpoint.does.within" label="At most after" unit="ms" :message="message('does.within')" />
        </div>
      </template>
      <div>
        <AreaField
          v-model="endpoint.answer"
          label="Answer, by example"
          :rows="4"
          :placeholder="exampleFor(endpoint.does)"
          :hint="
            isWhole
              ? 'Empty: all that there is. Or JSON with names in braces where values go.'
              : 'A list with one element is repeated for each of many rows; {rows} is all of them, {count} how many.'
          "
          :message="message('answer')"
          @left="left('answer')"
        />
      </div>
      <div class="first">
        <ChoiceField
          v-if="endpoint.does.kind !== 'message'"
          v-model="endpoint.missing"
          label="Status where nothing is found"
          :choices="missings"
        />
        <div>
          <label class="label" :for="`who-${number}`">Who may ask</label>
          <v-select
            :id="`who-${number}`"
            v-model="endpoint.who"
            :items="who"
            multiple
            chips
            placeholder="whoever comes in"
            persistent-placeholder
            :error-messages="endpoint.who.map((_, i) => message(`who.${i}`)).find(Boolean) ?? ''"
          />
        </div>
      </div>
      <EndpointTrial v-if="isTried" :endpoint="endpoint" />
      <div class="buttons">
        <v-btn height="26" :aria-expanded="isTried" @click="isTried = !isTried">{{ isTried ? 'Leave the trial' : 'Try it …' }}</v-btn>
        <v-btn height="26" @click="isOpen = false">Fold</v-btn>
        <v-btn height="26" @click="emit('drop')">Drop this endpoint</v-btn>
      </div>
    </template>
  </fieldset>
</template>

<style scoped>
.framed {
  display: grid;
  gap: 10px;
}
.closed {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.first {
  display: grid;
  grid-template-columns: minmax(120px, 1fr) 3fr;
  gap: 10px;
  align-items: start;
}
.wide {
  grid-column: 1 / -1;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1.6fr auto;
  gap: 8px;
}
.drop {
  margin-top: 22px;
}
.add {
  justify-self: start;
}
.buttons {
  display: flex;
  gap: 8px;
}
p {
  margin: 0;
}
</style>
