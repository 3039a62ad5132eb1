<script setup lang="ts">
import type { DataType } from '#core/tags/types'
import { behindValue, namedText, namesText, valueMeant, type ValueName } from '#core/tags/valueNames'
import { valueText } from '#core/text/number'
import type { WireValue } from '#shared/values'

/** Writes a value and says what was read back. */
const props = defineProps<{
  type: DataType
  unit: string
  names: readonly ValueName[]
  /** Who holds the value, as a sentence begins. */
  holder: string
  /** To what it is written: another one starts with an empty field. */
  to: number
  /** Answers with what was read back, or throws what is refused. */
  write(value: boolean | number | string): Promise<WireValue>
}>()
const text = ref('')
const busy = ref(false)
const answer = ref('')
const refused = ref<Refused | null>(null)
const isWide = computed(() => props.type === 'int64' || props.type === 'uint64')

const send = async (value: boolean | number | string) => {
  busy.value = true
  refused.value = null
  answer.value = ''
  try {
    const readBack = await props.write(value)
    answer.value = `Written. ${props.holder} now holds ${[valueText(readBack), behindValue(readBack, props)].filter(Boolean).join(' ')}.`
    text.value = ''
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}

const sendTyped = () => {
  const words = text.value.trim()
  if (words === '') return
  const meant = valueMeant(words, props.names)
  if (meant !== null) return void send(isWide.value ? String(meant) : meant)
  const number = Number(words.replace(',', '.'))
  void send(props.type === 'string' || isWide.value || Number.isNaN(number) ? words : number)
}
watch(
  () => props.to,
  () => {
    text.value = ''
    answer.value = ''
    refused.value = null
  },
)
</script>

<template>
  <form class="write" @submit.prevent="sendTyped">
    <template v-if="type === 'bool'">
      <span class="label">Write</span>
      <div class="line">
        <BusyButton v-for="truth in [true, false]" :key="String(truth)" :busy="busy" @click="send(truth)">
          {{ namedText(truth, names) }}
        </BusyButton>
      </div>
    </template>
    <div v-else class="line">
      <SuggestField
        v-if="names.length > 0"
        v-model="text"
        label="New value"
        :among="names.map((one) => namesText([one]))"
        hint="a number, or its name"
        class="grow"
      />
      <TextField v-else v-model="text" label="New value" mono class="grow" />
      <span class="unit quiet">{{ unit }}</span>
      <BusyButton type="submit" class="send" variant="flat" :busy="busy" :disabled="text.trim() === ''">Write</BusyButton>
    </div>
    <p v-if="answer" class="ok" role="status">{{ answer }}</p>
    <FaultNote v-if="refused" :fault="refused.why" />
  </form>
</template>

<style scoped>
.write {
  margin: 12px 0 16px;
}
.line {
  display: flex;
  gap: 8px;
  align-items: flex-start;
}
.grow {
  flex: 1;
}
.send,
.unit {
  margin-top: 21px;
}
.unit {
  line-height: 32px;
}
.ok {
  color: var(--flow);
  margin: 6px 0 0;
}
</style>
