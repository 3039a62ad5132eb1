<script setup lang="ts">
import { writeValue } from '#shared/api/tags'
import { valueText } from '#core/text/number'
import type { Tag } from '#shared/tags'
import { faceOf } from '~/sources/registry'

/** Writes a value and says what the device was read back to hold. */
const props = defineProps<{ tag: Tag }>()
/** The link ends a write before this; a page that gave up earlier would tell a failure that may not be one. */
const longestMs = 160_000
const text = ref('')
const busy = ref(false)
const answer = ref('')
const refused = ref<Refused | null>(null)
const isWide = computed(() => props.tag.type === 'int64' || props.tag.type === 'uint64')

const write = async (value: boolean | number | string) => {
  busy.value = true
  refused.value = null
  answer.value = ''
  try {
    const { readBack } = await callApi(writeValue, { params: { id: props.tag.id }, body: { value } }, { timeoutMs: longestMs })
    answer.value = `Written. ${faceOf(props.tag.source.kind).holder} now holds ${valueText(readBack)}${props.tag.unit ? ` ${props.tag.unit}` : ''}.`
    text.value = ''
  } catch (error) {
    refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}

const send = () => {
  const words = text.value.trim()
  if (words === '') return
  const number = Number(words.replace(',', '.'))
  void write(props.tag.type === 'string' || isWide.value || Number.isNaN(number) ? words : number)
}
watch(
  () => props.tag.id,
  () => {
    text.value = ''
    answer.value = ''
    refused.value = null
  },
)
</script>

<template>
  <form class="write" @submit.prevent="send">
    <template v-if="tag.type === 'bool'">
      <span class="label">Write</span>
      <div class="line">
        <BusyButton :busy="busy" @click="write(true)">true</BusyButton>
        <BusyButton :busy="busy" @click="write(false)">false</BusyButton>
      </div>
    </template>
    <div v-else class="line">
      <TextField v-model="text" label="New value" mono class="grow" />
      <span class="unit quiet">{{ tag.unit }}</span>
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
