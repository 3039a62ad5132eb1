<script setup lang="ts">
import type { FileTrigger } from '#core/bridges/settings'
import { receivers } from '~/bridges/blank'
import { decimals, delimiters } from '~/bridges/csvChoices'

/** Which files a bridge takes, and how they are read. */
const trigger = defineModel<FileTrigger>({ required: true })
const props = defineProps<{ path: string; messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()
const lists = useLists()

const message = (field: string) => props.messageFor(`${props.path}.${field}`)
const left = (field: string) => emit('left', `${props.path}.${field}`)
const links = computed(() => receivers('file', lists).map(({ id, name }) => ({ value: id, title: name })))
const ways = [
  { value: 'line' as const, title: 'each new line' },
  { value: 'whole' as const, title: 'each new file as a whole' },
]
const forms = [
  { value: 'csv' as const, title: 'CSV', subtitle: 'columns by their names' },
  { value: 'json' as const, title: 'JSON' },
  { value: 'text' as const, title: 'plain text' },
]
const encodings = [
  { value: 'utf-8' as const, title: 'UTF-8' },
  { value: 'utf-16le' as const, title: 'UTF-16' },
  { value: 'windows-1252' as const, title: 'Windows-1252' },
]
const firsts = [
  { value: 'new' as const, title: 'only what is new' },
  { value: 'all' as const, title: 'what is there already, too' },
]
</script>

<template>
  <ChoiceField v-model="trigger.linkId" label="In the folder of" :choices="links" :message="message('linkId')" />
  <TextField
    v-model="trigger.files"
    class="wide"
    label="Files"
    mono
    placeholder="counts/*.csv"
    hint="“*” stands for what is within a name"
    :message="message('files')"
    @left="left('files')"
  />
  <ChoiceField v-model="trigger.by" label="Take" :choices="ways" />
  <ChoiceField v-model="trigger.form" label="They hold" :choices="forms" />
  <template v-if="trigger.form === 'csv'">
    <ChoiceField v-model="trigger.delimiter" label="Between values" :choices="delimiters" />
    <ChoiceField v-model="trigger.decimal" label="Decimals" :choices="decimals" :message="message('decimal')" />
    <v-switch v-model="trigger.header" label="The first line names the columns" />
  </template>
  <ChoiceField v-model="trigger.encoding" label="Encoding" :choices="encodings" />
  <ChoiceField v-model="trigger.first" label="When it begins" :choices="firsts" />
  <NumberField v-model="trigger.every" label="Look every" unit="ms" :message="message('every')" @left="left('every')" />
</template>
