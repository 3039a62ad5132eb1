<script setup lang="ts">
import { readFormula } from '#core/formulas/compile'
import type { FormulaSource } from '#shared/sources/formula'
import type { Drawn } from '#shared/sources/source'

/** How a value is worked out, and which tags stand behind the names. */
const draft = defineModel<Drawn<FormulaSource>>({ required: true })
const props = defineProps<{ messageFor(path: string): string }>()
const emit = defineEmits<{ left: [path: string] }>()

const source = computed(() => draft.value.source)
const set = (part: Partial<FormulaSource>) => (draft.value.source = { ...source.value, ...part })
const setInput = (name: string, path: string) => set({ inputs: { ...source.value.inputs, [name]: path } })

/** While the formula cannot be read, the inputs stay that it had. */
const names = ref<string[]>(Object.keys(source.value.inputs))
watch(
  () => source.value.formula,
  (text) => {
    const read = readFormula(text)
    if (read.ok) names.value = read.formula.names
  },
  { immediate: true },
)
const qualities = computed(() => [
  { value: 'worst', title: 'the worst of its inputs' },
  { value: 'best', title: 'the best of its inputs', subtitle: 'where one stands in for another' },
  ...names.value.map((name) => ({ value: name, title: `that of ${name}` })),
])
const problem = computed(() => {
  const read = readFormula(source.value.formula)
  return source.value.formula !== '' && !read.ok ? read.problem : props.messageFor('source.formula')
})
</script>

<template>
  <div class="wide">
    <TextField
      :model-value="source.formula"
      label="Formula"
      mono
      placeholder="(a + b) / 2"
      :message="problem"
      @update:model-value="set({ formula: $event })"
      @left="emit('left', 'source.formula')"
    />
  </div>
  <slot name="type" />
  <div class="inputs">
    <div v-for="name in names" :key="name" class="input">
      <span class="mono name">{{ name }}</span>
      <TagField
        :model-value="source.inputs[name] ?? ''"
        :label="`${name} is the tag`"
        :message="messageFor(`source.inputs.${name}`)"
        @update:model-value="setInput(name, $event)"
        @left="emit('left', `source.inputs.${name}`)"
      />
    </div>
    <p v-if="messageFor('source.inputs')" class="is-broken">{{ messageFor('source.inputs') }}</p>
    <ChoiceField
      v-if="names.length > 0"
      class="quality"
      :model-value="source.quality"
      label="Its quality"
      :choices="qualities"
      :message="messageFor('source.quality')"
      @update:model-value="set({ quality: $event })"
    />
  </div>
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
.inputs {
  grid-column: 1 / -1;
  display: grid;
  gap: 10px;
}
.input {
  display: grid;
  grid-template-columns: 60px 1fr;
  gap: 10px;
  align-items: center;
}
.name {
  padding-top: 18px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
}
.quality {
  max-width: 280px;
}
</style>
