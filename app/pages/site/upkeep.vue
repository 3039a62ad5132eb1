<script setup lang="ts">
import { showUpkeep } from '#shared/api/site'
import { duration, wholeSeconds } from '#core/text/duration'
import { dayText, momentText } from '#core/text/moment'
import { sizeText } from '#core/text/sizeText'
import type { UpkeepState } from '#shared/upkeep'

/** What the site needs so that it goes on for years while nobody looks. */
const live = useLive()
const session = useSession()
const { copied, copy } = useCopy()
const state = shallowRef<UpkeepState | null>(null)
const refused = shallowRef<Refused | null>(null)
const load = async () => {
  try {
    state.value = await callApi(showUpkeep)
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch(() => [live.changes, live.status?.upkeep.now, live.status?.upkeep.soon], load, { immediate: true })
const everyMs = 15_000
const timer = setInterval(() => void load(), everyMs)
onUnmounted(() => clearInterval(timer))

const kinds: Record<UpkeepState['endings'][number]['kind'], string> = {
  'own certificate': 'Our own certificate',
  'trusted certificate': 'Trusted certificate',
  authority: 'Authority of nodes',
  token: 'Token of a program',
  'wall screen': 'Wall screen',
}
const yearMs = 365.25 * 86_400_000
const leftText = (until: number) => {
  const left = until - Date.now()
  if (left > 2 * yearMs) return `in ${Math.floor(left / yearMs)} years`
  return left > 0 ? `in ${duration(left)}` : `${wholeSeconds(-left)} ago`
}
const command = './conduit backup --into /var/backups/conduit --keep 14 --passphrase-file FILE'
</script>

<template>
  <div class="page">
    <SiteHead />
    <FaultNote v-if="refused" :fault="refused.why" />
    <div v-if="state" class="stack">
      <section class="sheet part">
        <h2 class="sheet-title">To be seen to</h2>
        <ConcernList v-if="state.concerns.length > 0" :concerns="state.concerns" />
        <p v-else class="well"><PipeGlyph flow="flowing" :width="38" /> Nothing: this site can be left alone.</p>
      </section>
      <div class="columns">
        <section class="sheet part">
          <h2 class="sheet-title">Room</h2>
          <DiskRoom v-for="disk in state.disks" :key="disk.name" :disk="disk" />
          <dl>
            <dt>Database</dt>
            <dd>
              {{ state.databaseBytes === null ? 'not there to be asked' : sizeText(state.databaseBytes) }};
              <NuxtLink to="/trends/recording">what of it was recorded, and what it will come to</NuxtLink>
            </dd>
            <dt>What waits</dt>
            <dd>{{ sizeText(state.waitingBytes) }} for the database and for receivers of bridges</dd>
            <dt>Logs</dt>
            <dd>of each process at most 20 MB</dd>
          </dl>
        </section>
        <section class="sheet part">
          <h2 class="sheet-title">Backup</h2>
          <dl v-if="state.backup">
            <dt>Last</dt>
            <dd>{{ momentText(state.backup.at) }}, {{ leftText(state.backup.at) }}</dd>
            <dt>In</dt>
            <dd class="mono">{{ state.backup.file }}</dd>
            <dt>Size</dt>
            <dd>{{ sizeText(state.backup.bytes) }}</dd>
            <dt>Holds</dt>
            <dd>
              revision {{ state.backup.revision
              }}{{ state.backup.revisionsSince > 0 ? `; ${state.backup.revisionsSince} came since` : ', the newest' }}
            </dd>
          </dl>
          <p v-else class="quiet">None was made of this site yet.</p>
          <template v-if="session.can('configure')">
            <p>On this machine, as often as wanted; it keeps the last fourteen:</p>
            <p class="command">
              <code>{{ command }}</code>
              <v-btn size="small" @click="copy(command)">{{ copied === command ? 'Copied' : 'Copy' }}</v-btn>
            </p>
            <p class="quiet"><code>./conduit service --backup FOLDER</code> prints a timer that does it every night.</p>
          </template>
          <h2 class="sheet-title clock">Clock</h2>
          <p v-if="state.clockSet">
            {{ state.clockSet.by > 0 ? 'Went ahead' : 'Was set back' }} by {{ duration(Math.abs(state.clockSet.by)) }} on
            {{ momentText(state.clockSet.at) }}.
          </p>
          <p v-else class="quiet">Nobody set it since the start.</p>
        </section>
      </div>
      <section class="sheet part">
        <h2 class="sheet-title">
          What ends <span class="quiet light">told 60 days before; certificates of nodes are renewed by themselves</span>
        </h2>
        <table class="rows">
          <thead>
            <tr>
              <th>What</th>
              <th>Name</th>
              <th>Ends</th>
              <th>That is</th>
              <th>Used last</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in state.endings" :key="`${one.kind} ${one.name} ${one.until}`">
              <td>{{ kinds[one.kind] }}</td>
              <td class="name">
                <NuxtLink :to="one.place">{{ one.name }}</NuxtLink>
              </td>
              <td :class="{ 'is-broken': one.until < Date.now() }">{{ dayText(one.until) }}</td>
              <td class="quiet">{{ leftText(one.until) }}</td>
              <td class="quiet">{{ one.usedAt === null ? '—' : momentText(one.usedAt) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </div>
</template>

<style scoped>
.stack {
  display: grid;
  gap: 14px;
}
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  align-items: start;
}
.part {
  padding: 12px 16px;
}
.well {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 8px 0 0;
}
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 4px 10px;
  margin: 12px 0 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.command {
  display: flex;
  gap: 8px;
  align-items: center;
}
code {
  font-family: var(--mono);
  font-size: 12px;
  overflow-wrap: anywhere;
}
.clock {
  margin-top: 16px;
}
.light {
  font-weight: 400;
}
.name {
  overflow-wrap: anywhere;
}
p {
  margin: 8px 0 0;
}
@media (width < 900px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
