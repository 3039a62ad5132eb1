<script setup lang="ts">
import { withHole } from '#core/http/bodyHole'
import { methods } from '#core/http/operation'
import type { HttpSettings, Operation } from '#core/http/settings'

/** One operation of a web API: what is asked, and a place to try it. */
const operation = defineModel<Operation>({ required: true })
const props = defineProps<{ path: string; settings: HttpSettings; linkId: number | null; message(path: string): string }>()
defineEmits<{ left: [path: string]; drop: [] }>()

const at = (field: string) => `${props.path}.${field}`
const tries = ref(false)
/** Bodies as they were before parts of them were pressed, and what came of it. */
const pressed = ref<{ before: string; after: string }[]>([])
const fill = (where: string) => {
  const { body: before } = operation.value
  const after = withHole(before, where)
  if (after === null || after === before) return
  pressed.value.push({ before, after })
  operation.value.body = after
}
/** Only while nothing was typed since. */
const canTakeBack = computed(() => pressed.value.at(-1)?.after === operation.value.body)
const takeBack = () => (operation.value.body = pressed.value.pop()?.before ?? operation.value.body)
const hasBody = computed(() => operation.value.method !== 'GET')
const choices = methods.map((method) => ({ value: method, title: method }))
</script>

<template>
  <fieldset class="framed">
    <legend>{{ operation.name || 'Operation' }}</legend>
    <div class="first">
      <TextField
        v-model="operation.name"
        label="Name of the operation"
        mono
        :message="message(at('name'))"
        @left="$emit('left', at('name'))"
      />
      <ChoiceField v-model="operation.method" label="Method" :choices="choices" />
      <TextField
        v-model="operation.path"
        label="Path"
        mono
        placeholder="/tariffs/{zone}"
        :message="message(at('path'))"
        @left="$emit('left', at('path'))"
      />
    </div>
    <div class="named">
      <HeaderFields v-model="operation.query" what="Query" optional :path="at('query')" :message="message" @left="$emit('left', $event)" />
      <HeaderFields
        v-model="operation.headers"
        what="Header"
        optional
        :path="at('headers')"
        :message="message"
        @left="$emit('left', $event)"
      />
    </div>
    <div v-if="hasBody">
      <label class="label" :for="`${path}-body`">Body, as in {"kwh": "{energy}"}</label>
      <v-textarea
        :id="`${path}-body`"
        v-model="operation.body"
        rows="3"
        class="mono"
        :error-messages="message(at('body'))"
        @blur="$emit('left', at('body'))"
      />
      <template v-if="operation.body.trim().startsWith('{')">
        <p class="quiet">
          Press where a value goes; a parameter then stands in its place.
          <button v-if="canTakeBack" type="button" class="back" @click="takeBack">Take the last one back</button>
        </p>
        <ExampleTree model-value="" :text="operation.body" label="The body" @update:model-value="fill" />
      </template>
    </div>
    <p v-if="operation.example" class="quiet">
      An answer of {{ operation.example.length.toLocaleString('en-GB') }} characters is kept as the example.
    </p>
    <div class="buttons">
      <v-btn height="26" :aria-expanded="tries" @click="tries = !tries">Try it</v-btn>
      <v-btn height="26" @click="$emit('drop')">Drop this operation</v-btn>
    </div>
    <OperationTrial v-if="tries" :operation="operation" :settings="settings" :link-id="linkId" @keep="operation.example = $event" />
  </fieldset>
</template>

<style scoped>
.framed {
  display: grid;
  gap: 10px;
}
.first {
  display: grid;
  grid-template-columns: 1fr 110px 1.6fr;
  gap: 10px;
}
.named {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.back {
  color: var(--primary);
}
.buttons {
  display: flex;
  gap: 8px;
}
p {
  margin: 0;
}
</style>
