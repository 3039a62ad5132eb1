<script setup lang="ts">
import { momentText } from '#core/text/moment'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'

interface Revision {
  number: number
  at: string
  who: string
  what: string
  things: number
}

const live = useLive()
const session = useSession()
const lists = useLists()
const notices = useNotices()
const revisions = shallowRef<Revision[]>([])
const more = ref(true)
const name = ref('')
const refused = ref<Refused | null>(null)
const pageSize = 50

const load = async () => {
  try {
    revisions.value = await callApi<Revision[]>(`/revisions?limit=${pageSize}`)
    more.value = revisions.value.length === pageSize
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
const older = async () => {
  const page = await callApi<Revision[]>(`/revisions?limit=${pageSize}&before=${revisions.value.at(-1)?.number}`).catch(() => [])
  revisions.value = [...revisions.value, ...page]
  more.value = page.length === pageSize
}
watch(() => live.changes, load, { immediate: true })
watch(
  () => lists.siteName,
  (now) => (name.value = now),
  { immediate: true },
)

const rename = async () => {
  try {
    await callApi('/site', { method: 'PUT', body: { name: name.value } })
    notices.tell('Site renamed.')
  } catch (error) {
    notices.tellProblem(asRefused(error).fields[0]?.message ?? asRefused(error).why.what)
  }
}
const takeBack = async (revision: Revision) => {
  try {
    const made = await callApi<{ revision: number }>(`/revisions/${revision.number}/take-back`, { method: 'POST' })
    notices.tell(`Took back “${revision.what}”.`, made.revision)
  } catch (error) {
    notices.tellProblem(`${asRefused(error).why.what} ${asRefused(error).why.next}`)
  }
}
</script>

<template>
  <div class="page">
    <SiteHead />
    <NotAsConfigured />
    <div class="columns">
      <section class="sheet part">
        <h2 class="sheet-title">Revisions <span class="quiet light">who changed what, and the way back</span></h2>
        <FaultNote v-if="refused" :fault="refused.why" />
        <table class="rows">
          <tbody>
            <tr v-for="revision in revisions" :key="revision.number">
              <td class="number">{{ revision.number }}</td>
              <td class="mono when">{{ momentText(revision.at) }}</td>
              <td>{{ revision.who }}</td>
              <td>{{ revision.what }}</td>
              <td>
                <v-btn v-if="revision.things > 0 && session.can('configure')" height="24" @click="takeBack(revision)">Take back</v-btn>
              </td>
            </tr>
            <tr v-if="revisions.length === 0">
              <td class="quiet">Nothing was changed yet.</td>
            </tr>
          </tbody>
        </table>
        <v-btn v-if="more && revisions.length" @click="older">Older revisions</v-btn>
      </section>
      <div class="side">
        <form class="sheet part" @submit.prevent="rename">
          <TextField v-model="name" label="Name of the site" />
          <v-btn type="submit" class="rename" :disabled="name === lists.siteName || !session.can('configure')">Rename</v-btn>
        </form>
        <section v-if="live.status" class="sheet part">
          <h2 class="sheet-title">Engine</h2>
          <dl>
            <dt>Node</dt>
            <dd class="mono">{{ live.status.node }}</dd>
            <dt>Runs for</dt>
            <dd>{{ duration(live.status.now - live.status.startedAt) }}</dd>
            <dt>Configuration</dt>
            <dd>
              revision {{ live.status.configurationRevision }},
              {{ live.status.configurationFrom === 'database' ? 'from the database' : 'last known, kept on disk' }}
            </dd>
            <dt>In force</dt>
            <dd :class="{ 'is-late': live.status.notInForceCount > 0 }">
              {{
                live.status.notInForceCount > 0 ? `${counted(live.status.notInForceCount, 'thing')} not as configured` : 'all as configured'
              }}
            </dd>
            <dt>Database</dt>
            <dd :class="{ 'is-broken': !live.status.databaseConnected }">{{ live.status.databaseConnected ? 'connected' : 'away' }}</dd>
          </dl>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 7fr) minmax(0, 3fr);
  gap: 16px;
  align-items: start;
}
.side {
  display: grid;
  gap: 14px;
}
.part {
  padding: 12px 16px;
}
.light {
  font-weight: 400;
}
.when {
  white-space: nowrap;
}
.rename {
  margin-top: 10px;
}
dl {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 4px;
  margin: 8px 0 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
}
</style>
