<script setup lang="ts">
import { counted } from '#core/text/counted'
import { momentText } from '#core/text/moment'
import { listRevisions, returnToRevision, takeBackRevision, takeBackRevisions, type Revision } from '#shared/api/site'

/** Who changed what, with the ways back: one, several, or to a point in time. */
const live = useLive()
const session = useSession()
const notices = useNotices()
const revisions = shallowRef<Revision[]>([])
const more = ref(true)
const refused = ref<Refused | null>(null)
const find = ref<string | null>('')
const opened = ref<number | null>(null)
const chosen = ref(new Set<number>())
const returning = ref<Revision | null>(null)
const pageSize = 50

const load = async () => {
  try {
    const { items } = await callApi(listRevisions, { query: { limit: pageSize, find: find.value } })
    revisions.value = items
    more.value = items.length === pageSize
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
const older = async () => {
  const query = { limit: pageSize, before: revisions.value.at(-1)?.number, find: find.value }
  const page = await callApi(listRevisions, { query }).catch(() => null)
  revisions.value = [...revisions.value, ...(page?.items ?? [])]
  more.value = page?.items.length === pageSize
}
watch([() => live.changes, find], load, { immediate: true })
const newest = computed(() => revisions.value[0]?.number ?? 0)

const open = ({ number }: Revision) => {
  opened.value = opened.value === number ? null : number
}
const choose = (number: number) => {
  const next = new Set(chosen.value)
  if (!next.delete(number)) next.add(number)
  chosen.value = next
}
const done = async (what: string, work: () => Promise<{ revision: number }>) => {
  try {
    const { revision } = await work()
    chosen.value = new Set()
    opened.value = null
    notices.tell(what, revision)
  } catch (error) {
    notices.tellProblem(`${asRefused(error).why.what} ${asRefused(error).why.next}`)
  }
}
const takeBack = (revision: Revision) =>
  done(`Took back “${revision.what}”.`, () => callApi(takeBackRevision, { params: { number: revision.number } }))
const takeBackChosen = () =>
  done(`Took back ${counted(chosen.value.size, 'revision')}.`, () => callApi(takeBackRevisions, { body: { numbers: [...chosen.value] } }))
const goBack = () => {
  const revision = returning.value!
  returning.value = null
  return done(`Returned to revision ${revision.number}.`, () => callApi(returnToRevision, { params: { number: revision.number } }))
}
const noted = (revision: Revision, comment: string) => {
  revisions.value = revisions.value.map((one) => (one.number === revision.number ? { ...one, comment } : one))
}
</script>

<template>
  <section class="sheet part">
    <div class="head">
      <h2 class="sheet-title">Revisions <span class="quiet light">who changed what, and the way back</span></h2>
      <v-btn v-if="chosen.size > 0" height="26" @click="takeBackChosen">Take {{ counted(chosen.size, 'revision') }} back</v-btn>
      <ListFilter v-model="find" label="Filter by what, who or why" />
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <table class="rows">
      <tbody>
        <template v-for="revision in revisions" :key="revision.number">
          <tr class="opens" @click="open(revision)">
            <td v-if="session.can('configure')" class="choice" @click.stop>
              <input
                type="checkbox"
                class="tick"
                :checked="chosen.has(revision.number)"
                :disabled="revision.things === 0"
                :aria-label="`Choose revision ${revision.number}`"
                @change="choose(revision.number)"
              />
            </td>
            <td class="number">
              <button
                type="button"
                :aria-expanded="opened === revision.number"
                :aria-label="`Revision ${revision.number}`"
                @click.stop="open(revision)"
              >
                {{ revision.number }}
              </button>
            </td>
            <td class="mono when">{{ momentText(revision.at) }}</td>
            <td>{{ revision.who }}</td>
            <td class="what">
              {{ revision.what }}<span v-if="revision.comment" class="quiet"> — {{ revision.comment }}</span>
            </td>
          </tr>
          <tr v-if="opened === revision.number">
            <td />
            <td :colspan="4">
              <RevisionChanges
                :revision="revision"
                :newest="newest"
                @back="takeBack(revision)"
                @go-back-to="returning = revision"
                @noted="noted(revision, $event)"
              />
            </td>
          </tr>
        </template>
        <tr v-if="revisions.length === 0">
          <td class="quiet">{{ find ? 'Nothing matches.' : 'Nothing was changed yet.' }}</td>
        </tr>
      </tbody>
    </table>
    <v-btn v-if="more && revisions.length" @click="older">Older revisions</v-btn>
    <AskDialog
      :model-value="returning !== null"
      :title="`Return to revision ${returning?.number}?`"
      yes="Return"
      no="Stay"
      grave
      @update:model-value="returning = null"
      @yes="goBack"
    >
      <p>
        {{ counted(newest - (returning?.number ?? 0), 'revision') }} after it
        {{ newest - (returning?.number ?? 0) === 1 ? 'is' : 'are' }} undone by one new one, which can be taken back itself.
      </p>
    </AskDialog>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin-bottom: 6px;
}
.head h2 {
  flex: 1;
}
.light {
  font-weight: 400;
}
.when {
  white-space: nowrap;
}
.what {
  overflow-wrap: anywhere;
}
.choice {
  width: 1%;
}
</style>
