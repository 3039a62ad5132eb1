<script setup lang="ts">
import { counted } from '#core/text/counted'
import { ageText, wholeSeconds } from '#core/text/duration'
import type { ClientStatus, Flow } from '#shared/status'
import { rightText } from '#core/outlets/rules'
import { identityText, rulesText, securityText } from '#shared/outlets/card'
import type { Outlet } from '#shared/outlets/outlet'

const route = useRoute()
const live = useLive()
const session = useSession()
const notices = useNotices()
const { copied, copy } = useCopy()
const id = Number(route.params.id)
const outlet = shallowRef<Outlet | null>(null)
const refused = ref<Refused | null>(null)
const { asking, remove } = useRemoval('Outlet', '/outlets')
try {
  outlet.value = await callApi<Outlet>(`/outlets/${id}`)
} catch (error) {
  refused.value = asRefused(error)
}

const status = computed(() => live.status?.outlets.find((known) => known.id === id) ?? null)
const writable = ref(0)
watch(
  () => live.changes,
  async () => {
    const page = await callApi<{ writable: number }>('/tags/summary').catch(() => null)
    writable.value = page?.writable ?? 0
  },
  { immediate: true },
)
const doorAt = (i: number) => outlet.value?.settings.doors[i]
const interfaceText = (address: string) =>
  address === '127.0.0.1'
    ? 'this machine only'
    : address === '0.0.0.0'
      ? 'every interface'
      : (live.status?.interfaces.find((one) => one.address === address)?.name ?? address)
const showsRequests = computed(() => {
  const { points, refused: refusals } = status.value?.onRequest ?? { points: [], refused: [] }
  return outlet.value?.settings.onRequest.on || points.length + refusals.length > 0
})
const ago = (at: number) => ageText((live.status?.now ?? at) - at)
/** Late: it has not asked for a while, or did not get what it asked for. */
const flowOf = ({ lastAskedAt, refused: refusal }: ClientStatus): Flow => {
  const now = live.status?.now ?? 0
  return now - lastAskedAt < 30_000 && (!refusal || now - refusal.at > 10_000) ? 'flowing' : 'late'
}

const disconnect = async (client: ClientStatus) => {
  try {
    await callApi(`/outlets/${id}/disconnect`, { method: 'POST', body: { client: client.id } })
    notices.tell(`${client.name} was disconnected. It may come back by itself.`)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/outlets" class="trail">Outlets ›</NuxtLink>
      <h1>{{ outlet?.name ?? 'Outlet' }}</h1>
      <PipeGlyph v-if="status" :flow="status.flow" :width="58" />
      <span v-if="status" :class="status.flow === 'flowing' ? 'quiet' : `is-${status.flow}`"
        >{{ status.sentence }}<template v-if="status.flow === 'flowing'"> · {{ status.changesPerSecond }} changes/s</template></span
      >
      <span class="fill" />
      <template v-if="outlet">
        <v-btn :to="`/outlets/${id}/names`">Short names</v-btn>
        <v-btn :to="`/outlets/${id}/card`">Card for the consumer’s side</v-btn>
        <v-btn variant="flat" :to="`/outlets/${id}/settings`">Settings</v-btn>
        <v-btn v-if="session.can('configure')" color="break" @click="asking = true">Remove…</v-btn>
      </template>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <div v-if="outlet" class="columns">
      <div class="main">
        <section class="sheet part">
          <h2 class="sheet-title">Doors <span class="quiet light">where it listens, and how a client may come in</span></h2>
          <table class="rows">
            <thead>
              <tr>
                <th></th>
                <th>Interface</th>
                <th>Address to give out</th>
                <th>Security</th>
                <th>Identity</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(door, i) in status?.doors ?? []" :key="i">
                <td><PipeGlyph :flow="door.flow" :width="38" /></td>
                <td class="tight">{{ interfaceText(door.interface) }}</td>
                <td class="mono tight">
                  {{ door.address }}
                  <v-btn height="22" class="copy" @click="copy(door.address)">{{ copied === door.address ? 'Copied' : 'Copy' }}</v-btn>
                </td>
                <td>{{ doorAt(i) && securityText(doorAt(i)!) }}</td>
                <td>{{ doorAt(i) && identityText(doorAt(i)!) }}</td>
              </tr>
              <tr v-if="!status?.doors.length">
                <td><PipeGlyph flow="off" :width="38" /></td>
                <td colspan="4" class="quiet">closed</td>
              </tr>
            </tbody>
          </table>
        </section>
        <FaultNote v-if="status?.fault" :fault="status.fault" />
        <section class="sheet part">
          <h2 class="sheet-title">Clients</h2>
          <table v-if="status?.clients.length" class="rows">
            <thead>
              <tr>
                <th></th>
                <th>Client</th>
                <th>As</th>
                <th class="number">Items</th>
                <th>Last asked, and got</th>
                <th></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="client in status.clients" :key="client.id">
                <td><PipeGlyph :flow="flowOf(client)" :width="38" /></td>
                <td>
                  {{ client.name }}
                  <span class="below quiet"
                    ><span class="mono">{{ client.from }}</span
                    >, since {{ wholeSeconds((live.status?.now ?? client.since) - client.since) }}</span
                  >
                </td>
                <td>
                  {{ client.identity }}<span class="below quiet">{{ client.security }}</span>
                </td>
                <td class="number">{{ client.items }}</td>
                <td>
                  <span class="quiet"
                    >{{ client.lastAsked }} {{ ago(client.lastAskedAt) }}{{ client.lastGot && `: ${client.lastGot}` }}</span
                  >
                  <span v-if="client.refused" class="is-broken below">{{ client.refused.text }}, {{ ago(client.refused.at) }}</span>
                </td>
                <td>
                  <Allowed role="operate"><v-btn height="24" @click="disconnect(client)">Disconnect</v-btn></Allowed>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else class="quiet">Nobody is connected. An OPC UA client uses one of the addresses above.</p>
        </section>
        <RequestedPoints v-if="status && showsRequests" :requested="status.onRequest" :now="live.status?.now ?? 0" />
        <DoorCheck
          v-if="status?.doors.length"
          :outlet-id="id"
          :doors="outlet.settings.doors"
          :status="status.doors"
          :interfaces="live.status?.interfaces ?? []"
          :now="live.status?.now ?? 0"
        />
      </div>
      <div class="side">
        <section v-if="status?.waiting.length" class="sheet part door">
          <h2 class="sheet-title">
            At the door <span class="quiet light">{{ status.waiting.length }} waiting</span>
          </h2>
          <KnockCard v-for="knock in status.waiting" :key="knock.facts.fingerprint" :knock="knock" :now="live.status?.now ?? 0" />
        </section>
        <section class="sheet part sees">
          <h2 class="sheet-title">What they see</h2>
          <p v-for="rule in outlet.settings.shows" :key="rule.folder">
            <span class="chip mono inline">{{ rule.folder ? `${rule.folder}/…` : 'the whole site' }}</span> {{ rightText[rule.may] }}
          </p>
          <p v-if="outlet.settings.health"><span class="chip mono inline">Links/…</span> the health of the links</p>
          <p v-if="outlet.settings.shortNames.on">
            <NuxtLink :to="`/outlets/${id}/names`">Also flat, by short names</NuxtLink> of at most
            {{ outlet.settings.shortNames.most }} characters
          </p>
          <p class="quiet">
            {{ counted(live.status?.tags ?? 0, 'tag') }} on this site, {{ writable }} mapped for writing. NodeId of a tag:
            <span class="mono">nsu=urn:keen-conduit:tags;s=</span> and its path.
          </p>
        </section>
        <section class="sheet part">
          <h2 class="sheet-title">Who may come in</h2>
          <p v-if="outlet.settings.doors.some((door) => door.anonymous)">
            <strong>Anonymous</strong> <span class="quiet">{{ rulesText(outlet.settings.anonymous) }}</span>
          </p>
          <p v-for="user in outlet.settings.users" :key="user.name">
            <strong>{{ user.name }}</strong>
            <span class="quiet"> by {{ user.key.kind }} · {{ rulesText(user.rules) }}</span>
          </p>
          <p class="quiet">
            Applications are let in at the door, and listed under <NuxtLink to="/site/certificates">Certificates</NuxtLink>.
          </p>
        </section>
      </div>
    </div>
    <AskDialog
      v-model="asking"
      :title="`Remove “${outlet?.name}”?`"
      yes="Remove outlet"
      no="Keep"
      grave
      @yes="remove(`/outlets/${id}`, outlet!.name)"
    >
      <p>
        {{ status?.clients.length ? `${counted(status.clients.length, 'client')} will be disconnected.` : 'No client is connected.' }} It
        can be taken back afterwards.
      </p>
    </AskDialog>
  </div>
</template>

<style scoped>
.door {
  border-left: 4px solid var(--copper);
}
.inline {
  display: inline-block;
  vertical-align: middle;
  margin-bottom: 0;
}
.below {
  display: block;
}
strong {
  font-weight: 600;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 7fr) minmax(0, 4fr);
  gap: 16px;
  align-items: start;
}
.main,
.side {
  display: grid;
  gap: 14px;
  min-width: 0;
}
.part {
  padding: 12px 14px;
  overflow-x: auto;
}
.part p {
  margin: 8px 0 0;
}
.light {
  font-weight: 400;
}
.tight {
  white-space: nowrap;
}
.copy {
  margin-left: 8px;
}
</style>
