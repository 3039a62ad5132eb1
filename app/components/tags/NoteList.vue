<script setup lang="ts">
import { acceptNotes } from '#shared/api/notes'
import { noteKinds } from '#core/notes/kinds'
import type { TagNote } from '#shared/notes'

/** The notes on one tag: what is to be said, what to do, and accepting it for a reason. */
const props = defineProps<{ notes: readonly TagNote[]; tagId: number | null }>()
const emit = defineEmits<{ changed: [] }>()
const notices = useNotices()

const asked = ref<string | null>(null)
const reason = ref('')
const busy = ref(false)
const ask = (key: string) => {
  asked.value = asked.value === key ? null : key
  reason.value = ''
}
const accept = async ({ key, kind }: TagNote, why: string | null) => {
  busy.value = true
  try {
    const { revision } = await callApi(acceptNotes, { body: { notes: [{ id: props.tagId!, key }], reason: why } })
    notices.tell(why === null ? `The note counts again: ${noteKinds[kind].title}.` : 'Note accepted.', revision)
    asked.value = null
    emit('changed')
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <ul class="notes" aria-label="Notes">
    <li v-for="one in notes" :key="one.key" :class="{ accepted: one.accepted !== null }">
      <p>
        <strong>{{ noteKinds[one.kind].title }}</strong> {{ one.text }}
      </p>
      <p class="quiet">{{ one.accepted === null ? one.todo : `Accepted: ${one.accepted}` }}</p>
      <Allowed v-if="tagId !== null" role="configure">
        <button v-if="one.accepted !== null" type="button" class="link" @click="accept(one, null)">Let it count again</button>
        <button v-else-if="asked !== one.key" type="button" class="link" @click="ask(one.key)">Accept…</button>
        <form v-else class="reason" @submit.prevent="accept(one, reason)">
          <TextField v-model="reason" label="Why it is right as it is" autofocus />
          <BusyButton type="submit" :busy="busy" :disabled="reason.trim() === ''">Accept</BusyButton>
          <v-btn @click="asked = null">Leave it</v-btn>
        </form>
      </Allowed>
    </li>
  </ul>
</template>

<style scoped>
.notes {
  list-style: none;
  margin: 8px 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
li {
  padding: 7px 12px;
  border-left: 3px solid var(--copper);
  background: var(--copper-soft, transparent);
}
li.accepted {
  border-left-color: var(--line);
}
strong {
  font-weight: 600;
}
p {
  margin: 0;
  overflow-wrap: anywhere;
}
.link {
  color: var(--primary);
  text-decoration: underline;
}
.reason {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 6px;
  align-items: end;
  margin-top: 6px;
}
</style>
