<script setup lang="ts">
import type { Input } from '#core/bridges/settings'
import { givenFor, operationsOf } from '~/bridges/operations'

/** A call whose answer, or a part of it, is taken. */
const input = defineModel<Extract<Input, { kind: 'call' }>>({ required: true })
const props = defineProps<{ path: string; others: readonly string[]; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const lists = useLists()

const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const operation = computed(() => operationsOf(lists.links, input.value.linkId).find(({ name }) => name === input.value.operation))
watch(
  () => [input.value.linkId, input.value.operation],
  () => (input.value.given = givenFor(operation.value, input.value.given, props.others)),
  { immediate: true },
)
</script>

<template>
  <OperationChoice
    v-model:link-id="input.linkId"
    v-model:operation="input.operation"
    :link-message="message('linkId')"
    :message="message('operation')"
  />
  <TextField
    v-for="(field, i) in input.given"
    :key="field.into"
    v-model="field.from"
    :label="`${field.into} comes from`"
    mono
    placeholder="an input, a name or a formula"
    :message="message(`given.${i}.from`)"
    @left="emit('left', `${path}.given.${i}.from`)"
  />
  <TextField
    v-model="input.path"
    class="wide"
    label="Inside the answer (JSONPath)"
    mono
    placeholder="the whole answer, or $.now.price"
    :message="message('path')"
    @left="emit('left', `${path}.path`)"
  />
  <div v-if="operation?.example" class="whole">
    <ExampleTree v-model="input.path" :text="operation.example" label="The example of this operation" :many="input.each" />
  </div>
  <p v-else-if="operation" class="quiet whole">
    An answer kept as the example of the operation, in the settings of its link, can be pointed at here.
  </p>
</template>
