<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import type { JournalKeeping } from '#core/journal/settings'
import { keepJournal, showJournalKeeping } from '#shared/api/journal'
import type { AnswerOf } from '#shared/api/operation'
import { keptText, forwardedText } from '~/journal/keptText'

/** What of the journal is kept, and what that takes, as a sentence; unfolded, how it is kept. */
const notices = useNotices()
const now = shallowRef<AnswerOf<typeof showJournalKeeping> | null>(null)
const refused = shallowRef<Refused | null>(null)
const open = ref(false)
const look = async () => {
  try {
    now.value = await callApi(showJournalKeeping)
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
void look()
useIntervalFn(look, 10_000)

const form = useTemplateRef<{ form: ReturnType<typeof useDraft<JournalKeeping>> }>('form')
const keep = async (keeping: JournalKeeping) => {
  try {
    await callApi(keepJournal, { body: keeping })
    notices.tell('Kept as said from now on.')
    open.value = false
    await look()
  } catch (error) {
    const { fields, why } = asRefused(error)
    if (fields.length > 0 && form.value) form.value.form.fromServer.value = fields
    else notices.tellProblem(why.what)
  }
}
</script>

<template>
  <section class="sheet kept">
    <button type="button" class="line" :aria-expanded="open" @click="open = !open">
      <span>{{ now ? keptText(now) : 'What is kept is not known just now.' }}</span>
      <span v-if="now?.use.forwarding" :class="{ 'is-broken': now.use.forwarding.fault, quiet: !now.use.forwarding.fault }">{{
        forwardedText(now.use.forwarding)
      }}</span>
      <span class="turn" aria-hidden="true">{{ open ? '–' : '+' }}</span>
    </button>
    <template v-if="open">
      <FaultNote v-if="now?.use.forwarding?.fault" :fault="now.use.forwarding.fault" mild />
      <JournalKeepingForm v-if="now" ref="form" :keeping="now.keeping" @keep="keep" />
      <FaultNote v-else-if="refused" :fault="refused.why" />
    </template>
  </section>
</template>

<style scoped>
.kept {
  margin-bottom: 12px;
}
.line {
  display: flex;
  gap: 14px;
  width: 100%;
  padding: 9px 16px;
  text-align: left;
}
.line:focus-visible {
  outline: 2px solid var(--copper);
}
.turn {
  margin-left: auto;
  font-family: var(--mono);
}
</style>
