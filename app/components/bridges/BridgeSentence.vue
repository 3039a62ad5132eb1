<script setup lang="ts">
import { bringsMessage, type BridgeDraft } from '#core/bridges/settings'
import { awayText, destinationText, gatherText, inputText, triggerText } from '#core/bridges/words'
import { blankDestination, blankInput, blankTrigger } from '~/bridges/blank'

/** What a bridge does, as a sentence whose parts are pressed to be edited. */
const draft = defineModel<BridgeDraft>({ required: true })
const props = defineProps<{
  isNew: boolean
  /** A message that sets it off, to be pointed into. */
  example?: string
  /** Whether something below a path is wrong, once somebody tried to save. */
  wrong(prefix: string): boolean
  messageFor(path: string): string
}>()
defineEmits<{ left: [path: string] }>()
const lists = useLists()

/** The part whose sheet is open, as in take.0. */
const open = ref<string | null>(props.isNew ? 'when.0' : null)
const press = (part: string) => (open.value = open.value === part ? null : part)
const openIndex = (of: 'when' | 'take' | 'send') => {
  const [kind, index] = (open.value ?? '').split('.')
  return kind === of && draft.value[of][Number(index)] ? Number(index) : null
}
const isAway = computed(() => open.value?.endsWith('.away') ?? false)

const addTrigger = () => (open.value = `when.${draft.value.when.push(blankTrigger('change', lists)) - 1}`)
const addInput = () => {
  const isMessage = draft.value.when.some(bringsMessage)
  open.value = `take.${draft.value.take.push(blankInput(isMessage ? 'member' : 'tag', '', lists)) - 1}`
}
const addDestination = () => {
  const number = Math.max(0, ...draft.value.send.map((one) => one.number)) + 1
  open.value = `send.${draft.value.send.push(blankDestination('file', number, lists, [])) - 1}`
}
const remove = (of: 'when' | 'take' | 'send', at: number) => {
  draft.value[of].splice(at, 1)
  open.value = null
}
</script>

<template>
  <p class="words">
    <strong>When </strong>
    <template v-for="(trigger, i) in draft.when" :key="`when ${i}`">
      <strong v-if="i > 0"> or </strong>
      <SentencePart
        :text="triggerText(trigger, lists.placeName)"
        :open="open === `when.${i}`"
        :wrong="wrong(`when.${i}`)"
        @press="press(`when.${i}`)"
      />
    </template>
    <span v-if="draft.when.length === 0" class="quiet">somebody runs it by hand</span>
    <button type="button" class="more" @click="addTrigger">{{ draft.when.length ? 'or when …' : 'when …' }}</button>
    <strong>, take </strong>
    <template v-for="(input, i) in draft.take" :key="`take ${i}`">
      <strong v-if="i > 0"> and </strong>
      <SentencePart
        :text="inputText(input, lists.placeName)"
        :open="open === `take.${i}`"
        :wrong="wrong(`take.${i}`)"
        @press="press(`take.${i}`)"
      />
    </template>
    <span v-if="draft.take.length === 0" class="quiet">what set it off</span>
    <button type="button" class="more" @click="addInput">and take …</button>
    <strong>, send </strong>
    <template v-for="(destination, i) in draft.send" :key="destination.number">
      <strong v-if="i > 0">, and send </strong>
      <SentencePart
        :text="destinationText(destination, lists.placeName)"
        :open="open === `send.${i}`"
        :wrong="wrong(`send.${i}`)"
        @press="press(`send.${i}`)"
      />
      <strong>, and if it is away </strong>
      <SentencePart
        :text="awayText(destination.away)"
        :open="open === `send.${i}.away`"
        :wrong="wrong(`send.${i}.away`)"
        @press="press(`send.${i}.away`)"
      />
    </template>
    <button type="button" class="more" @click="addDestination">and send …</button>
    <strong>, </strong>
    <SentencePart :text="gatherText(draft.gather)" :open="open === 'gather'" :wrong="wrong('gather')" @press="press('gather')" />
  </p>
  <slot />
  <SentencePanel v-if="open" @done="open = null">
    <TriggerPanel
      v-if="openIndex('when') !== null"
      :key="open"
      v-model="draft.when[openIndex('when')!]!"
      :path="open"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <InputPanel
      v-else-if="openIndex('take') !== null"
      :key="open"
      v-model="draft.take[openIndex('take')!]!"
      :path="open"
      :example="example ?? ''"
      :others="draft.take.filter((_, i) => i !== openIndex('take')).map(({ name }) => name)"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <AwayPanel
      v-else-if="openIndex('send') !== null && isAway"
      :key="open"
      v-model="draft.send[openIndex('send')!]!"
      :path="`send.${openIndex('send')}`"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <DestinationPanel
      v-else-if="openIndex('send') !== null"
      :key="open"
      v-model="draft.send[openIndex('send')!]!"
      :path="open"
      :message-for="messageFor"
      @left="$emit('left', $event)"
    />
    <GatherPanel v-if="open === 'gather'" v-model="draft.gather" :message-for="messageFor" @left="$emit('left', $event)" />
    <template #more>
      <v-btn v-if="openIndex('when') !== null" color="break" @click="remove('when', openIndex('when')!)">Remove this</v-btn>
      <v-btn v-if="openIndex('take') !== null" color="break" @click="remove('take', openIndex('take')!)">Remove this</v-btn>
      <v-btn v-if="openIndex('send') !== null && !isAway && draft.send.length > 1" color="break" @click="remove('send', openIndex('send')!)"
        >Remove this, and what is kept for it</v-btn
      >
    </template>
  </SentencePanel>
</template>

<style scoped>
.words {
  margin: 0;
  font-size: 15px;
  line-height: 36px;
}
.words strong {
  font-weight: 600;
}
.more {
  margin-left: 6px;
  font-size: 13px;
  color: var(--primary);
}
</style>
