<script setup lang="ts">
import { subjectWord } from '~/subjects'
import { counted } from '#core/text/counted'
import { listRevisionChanges, noteRevision, type Revision, type RevisionChange } from '#shared/api/site'

/** One revision, opened: what it changed thing by thing and field by field, why, and the ways back. */
const props = defineProps<{ revision: Revision; newest: number }>()
const emit = defineEmits<{ noted: [comment: string]; back: []; goBackTo: [] }>()
const session = useSession()
const notices = useNotices()

const pageSize = 50
const changes = shallowRef<RevisionChange[]>([])
const total = ref<number | null>(null)
const refused = ref<Refused | null>(null)
const comment = ref(props.revision.comment)

const load = async () => {
  try {
    const page = await callApi(listRevisionChanges, {
      params: { number: props.revision.number },
      query: { offset: changes.value.length, limit: pageSize },
    })
    changes.value = [...changes.value, ...page.items]
    total.value = page.total
  } catch (error) {
    refused.value = asRefused(error)
  }
}
void load()

const note = async () => {
  if (comment.value === props.revision.comment) return
  try {
    const noted = await callApi(noteRevision, { params: { number: props.revision.number }, body: { comment: comment.value } })
    emit('noted', noted.comment)
  } catch (error) {
    notices.tellProblem(asRefused(error).fields[0]?.message ?? asRefused(error).why.what)
  }
}
const fieldText = (field: string) => field.replace(/^source\.(options\.)?/, '').replaceAll('.', ' › ')
const mostFields = 12
</script>

<template>
  <div class="opened">
    <FaultNote v-if="refused" :fault="refused.why" />
    <form v-if="session.can('configure')" class="why" @submit.prevent="note">
      <TextField v-model="comment" label="Why" @left="note" />
    </form>
    <p v-if="total === 0" class="quiet">It changed nothing that is kept.</p>
    <table v-if="changes.length" class="changes" aria-label="What it changed">
      <tbody>
        <tr v-for="change in changes" :key="`${change.subject} ${change.id}`">
          <td class="quiet">{{ subjectWord(change.subject) }} {{ change.what }}</td>
          <td class="mono name" :title="change.name">{{ change.name }}</td>
          <td>
            <span v-for="one in change.fields.slice(0, mostFields)" :key="one.field" class="field">
              <span class="quiet">{{ fieldText(one.field) }}</span>&nbsp;<s v-if="one.before !== null" class="quiet mono">{{
                one.before
              }}</s
              >&nbsp;<span v-if="one.after !== null" class="mono">{{ one.after }}</span>
            </span>
            <span v-if="change.fields.length > mostFields" class="quiet">and {{ change.fields.length - mostFields }} more</span>
          </td>
        </tr>
      </tbody>
    </table>
    <div class="buttons">
      <v-btn v-if="total !== null && changes.length < total" @click="load">{{
        counted(total - changes.length, 'more thing', 'more things')
      }}</v-btn>
      <template v-if="session.can('configure')">
        <v-btn v-if="revision.things > 0" @click="emit('back')">Take it back</v-btn>
        <v-btn v-if="revision.number < newest" @click="emit('goBackTo')">Return to here</v-btn>
      </template>
    </div>
  </div>
</template>

<style scoped>
.opened {
  padding: 4px 0 10px;
}
.why {
  max-width: 420px;
  margin-bottom: 8px;
}
.changes {
  border-collapse: collapse;
  width: 100%;
}
.changes td {
  padding: 4px 10px 4px 0;
  vertical-align: top;
  border: 0;
}
.changes td:first-child {
  white-space: nowrap;
}
.name {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 320px;
}
.field {
  display: inline-block;
  margin-right: 14px;
  overflow-wrap: anywhere;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}
p {
  margin: 0;
}
</style>
