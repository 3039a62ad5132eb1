<script setup lang="ts">
import type { Input, Missing } from '#core/bridges/settings'
import { missingText } from '#core/bridges/words'
import { blankInput, inputTitles, nameFrom, receivers } from '~/bridges/blank'

/** What a run takes under a name. */
const input = defineModel<Input>({ required: true })
const props = defineProps<{ path: string; others: readonly string[]; example?: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const lists = useLists()
const databases = computed(() => receivers('table', lists).map(({ id, name }) => ({ value: id, title: name })))
const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const left = (field: string) => emit('left', `${props.path}.${field}`)
const kinds = (Object.keys(inputTitles) as Input['kind'][]).map((kind) => ({ value: kind, title: inputTitles[kind] }))
const choices = (Object.keys(missingText) as Missing['do'][]).map((kind) => ({ value: kind, title: missingText[kind] }))

const choose = (kind: Input['kind']) => (input.value = { ...blankInput(kind, input.value.name, lists), missing: input.value.missing })
const without = (kind: Missing['do']) => (input.value.missing = kind === 'wait' ? { do: kind, within: 1000 } : { do: kind })

/** A name that was only suggested follows what it was suggested by. */
let suggested = input.value.name
const follow = (path: string) => {
  if (input.value.name !== suggested && input.value.name !== '') return
  suggested = nameFrom(path, props.others)
  input.value.name = suggested
}
watch(
  () => ('path' in input.value ? input.value.path : null),
  (path) => path && follow(path),
)

const constant = computed({
  get: () => ('value' in input.value ? String(input.value.value) : ''),
  set: (text) => {
    if (!('value' in input.value)) return
    const number = Number(text)
    input.value.value = text === 'true' ? true : text === 'false' ? false : text.trim() !== '' && Number.isFinite(number) ? number : text
  },
})
</script>

<template>
  <div class="fields">
    <ChoiceField :model-value="input.kind" label="Take" :choices="kinds" @update:model-value="choose" />
    <TagField v-if="input.kind === 'tag'" v-model="input.path" class="wide" label="Tag" :message="message('path')" @left="left('path')" />
    <TextField
      v-else-if="input.kind === 'member'"
      v-model="input.path"
      class="wide"
      label="Where in the message (JSONPath)"
      mono
      placeholder="$.power.kw"
      :message="message('path')"
      @left="left('path')"
    />
    <template v-else-if="input.kind === 'query'">
      <ChoiceField v-model="input.linkId" label="Over" :choices="databases" :message="message('linkId')" />
      <AreaField
        v-model="input.statement"
        class="whole"
        label="Statement"
        placeholder="select vessel, eta from call where berth = {part2} order by eta limit 1"
        hint="What stands in braces is worked out for each run and handed over beside the text. Its columns are called after it, as in call_vessel."
        :message="message('statement')"
        @left="left('statement')"
      />
    </template>
    <AskedCallFields
      v-else-if="input.kind === 'call'"
      v-model="input"
      :path="path"
      :others="others"
      :message-for="messageFor"
      @left="emit('left', $event)"
    />
    <TextField v-else v-model="constant" class="wide" label="Value" mono :message="message('value')" @left="left('value')" />
    <div v-if="input.kind === 'member' && example" class="whole">
      <ExampleTree v-model="input.path" :text="example" label="The message" :many="input.each" />
    </div>
    <TextField v-model="input.name" label="Under the name" mono :message="message('name')" @left="left('name')" />
    <v-switch
      v-if="'each' in input"
      v-model="input.each"
      :label="input.kind === 'query' ? 'Each row makes a record' : 'Each element of the list makes a record'"
    />
    <p v-if="message('each')" class="is-broken">{{ message('each') }}</p>
    <ChoiceField
      v-if="input.kind !== 'constant'"
      :model-value="input.missing.do"
      label="Missing or bad"
      :choices="choices"
      @update:model-value="without"
    />
    <NumberField
      v-if="input.missing.do === 'wait'"
      v-model="input.missing.within"
      label="At most"
      unit="ms"
      :message="message('missing.within')"
      @left="left('missing.within')"
    />
  </div>
</template>
