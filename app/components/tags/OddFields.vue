<script setup lang="ts">
import { codesFrom, codesText, oddOf, oddText, usualOdd, type OddChoice, type OddValues } from '#core/tags/odd'

/** What becomes of values that are odd: of a link, or of one tag that may leave it to its link. */
const odd = defineModel<OddValues | null>({ required: true })
const props = defineProps<{
  /** What a type can have; a link’s points may have all of it. */
  kinds: 'float' | 'codes' | 'all'
  /** What holds where nothing is chosen; null: the usual. */
  link: OddValues | null
  /** Whether it is a link’s own. */
  ofLink?: boolean
  messageFor: (path: string) => string
}>()
const emit = defineEmits<{ left: [path: string] }>()

type Kind = 'nan' | 'infinite' | 'denormal'
type Way = 'open' | 'pass' | 'bad' | 'last' | 'number'
const floats: { kind: Kind; label: string; hint: string }[] = [
  { kind: 'nan', label: 'No number', hint: 'a float that is none' },
  { kind: 'infinite', label: 'Infinity', hint: 'either sign' },
  { kind: 'denormal', label: 'Denormal float', hint: 'nearly 0, often another type' },
]

const beyond = computed(() => oddOf(props.link, null))
const saidOf = (choice: OddChoice) => ({ pass: 'passed on', bad: 'bad', last: 'last value, uncertain' })[choice as string] ?? String(choice)
const waysFor = (kind: Kind) => [
  { value: 'open' as const, title: `${props.ofLink ? 'as usual' : 'as the link'}: ${saidOf(beyond.value[kind])}` },
  { value: 'pass' as const, title: 'passed on', subtitle: 'as it is, and good' },
  { value: 'bad' as const, title: 'bad', subtitle: 'the last value stays and is bad' },
  { value: 'last' as const, title: 'last value', subtitle: 'it stays and is uncertain' },
  { value: 'number' as const, title: 'a number instead', subtitle: 'uncertain' },
]
const wayOf = (kind: Kind): Way => {
  const choice = odd.value?.[kind]
  return choice === undefined ? 'open' : typeof choice === 'number' ? 'number' : choice
}
const set = (part: OddValues) => {
  const next = { ...odd.value, ...part }
  for (const key of Object.keys(next) as (keyof OddValues)[]) if (next[key] === undefined) delete next[key]
  odd.value = Object.keys(next).length === 0 ? null : next
}
const choose = (kind: Kind, way: Way) => set({ [kind]: way === 'open' ? undefined : way === 'number' ? 0 : way })

/** What cannot be read stays in the field and is told. */
const text = ref(codesText(odd.value?.codes ?? []))
watch(
  () => odd.value?.codes,
  (codes) => {
    if (JSON.stringify(read(text.value) ?? []) !== JSON.stringify(codes ?? [])) text.value = codesText(codes ?? [])
  },
)
const read = (words: string) => (words.trim() === '' ? undefined : (codesFrom(words) ?? [{ raw: words.trim(), then: 'bad' as const }]))
const typeCodes = (words: string) => {
  text.value = words
  set({ codes: read(words) })
}
const codePaths = computed(() => [
  'odd.codes',
  ...(odd.value?.codes ?? []).flatMap((_, index) => [`odd.codes.${index}.raw`, `odd.codes.${index}.then`]),
])
const codesMessage = computed(() => codePaths.value.map(props.messageFor).find((message) => message !== '') ?? '')
const summary = computed(() => oddText(odd.value) || (props.ofLink ? `as usual: ${usualText}` : 'as the link has them'))
const usualText = `no number and infinity are ${usualOdd.nan}`
const hasProblem = computed(() => codesMessage.value !== '')
</script>

<template>
  <SettingsFold title="Odd values" :summary="summary" :has-problem="hasProblem">
    <template v-if="kinds !== 'codes'">
      <div v-for="{ kind, label, hint } in floats" :key="kind" class="float">
        <ChoiceField
          :model-value="wayOf(kind)"
          :label="`${label}: ${hint}`"
          :choices="waysFor(kind)"
          @update:model-value="choose(kind, $event)"
        />
        <NumberField
          v-if="wayOf(kind) === 'number'"
          :model-value="odd![kind] as number"
          label="Instead"
          :message="messageFor(`odd.${kind}`)"
          @update:model-value="set({ [kind]: $event ?? NaN })"
          @left="$emit('left', `odd.${kind}`)"
        />
      </div>
    </template>
    <TextField
      class="codes"
      :model-value="text"
      label="Error codes"
      mono
      placeholder="0x8000; 32760..32767 last; -1 0"
      hint="raw value and what becomes of it: bad, last, pass or a number"
      :message="codesMessage"
      @update:model-value="typeCodes"
      @left="codePaths.forEach((path) => emit('left', path))"
    />
  </SettingsFold>
</template>

<style scoped>
.float {
  display: grid;
  gap: 8px;
}
.codes {
  grid-column: 1 / -1;
}
</style>
