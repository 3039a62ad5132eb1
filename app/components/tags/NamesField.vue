<script setup lang="ts">
import { namesText, readNames, type ValueName } from '#core/tags/valueNames'

/** What single values are called, in one line. */
const names = defineModel<ValueName[]>({ required: true })
const props = defineProps<{ messageFor(path: string): string; isTruth: boolean }>()
const emit = defineEmits<{ left: [path: string] }>()

const unreadable = ref('')
const text = ref(namesText(names.value))
/** A line that cannot be read is a name of no value, which nobody can save. */
const take = (typed: string) => {
  text.value = typed
  const read = readNames(typed)
  unreadable.value = read.ok ? '' : read.problem
  names.value = read.ok ? read.value : [{ value: NaN, name: typed }]
}
watch(names, (now) => {
  const read = readNames(text.value)
  const isTyped = read.ok ? namesText(read.value) === namesText(now) : now.some(({ value }) => Number.isNaN(value))
  if (isTyped) return
  text.value = namesText(now)
  unreadable.value = ''
})
/** What is wrong may be wrong with one of them. */
const paths = computed(() => ['names', ...names.value.flatMap((_, i) => [`names.${i}.value`, `names.${i}.name`])])
const message = computed(() => unreadable.value || (paths.value.map(props.messageFor).find(Boolean) ?? ''))
const leave = () => paths.value.forEach((path) => emit('left', path))
const lines = computed(() => Math.min(6, Math.max(1, Math.ceil(text.value.length / 80))))
</script>

<template>
  <AreaField
    :model-value="text"
    label="Names of values"
    :rows="lines"
    :placeholder="props.isTruth ? '0 = off; 1 = on' : '0 = standing; 1 = ramping; 2 = running'"
    :message="message"
    @update:model-value="take"
    @left="leave"
  />
</template>
