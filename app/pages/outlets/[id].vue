<script setup lang="ts">
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { ClientStatus, Flow } from '#shared/status'
import { modeText } from '#core/opcua/settings'
import { isOpenToOthers } from '#shared/outlets/opcuaServer'
import type { Outlet } from '#shared/outlets/outlet'

const route = useRoute()
const live = useLive()
const session = useSession()
const lists = useLists()
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
const securityText = (i: number) => {
  const door = doorAt(i)
  if (!door) return ''
  const secured = door.policies.filter((policy) => policy !== 'None')
  const parts = secured.length > 0 ? [`${door.modes.map((mode) => modeText[mode]).join(' or ')} (${secured.join(', ')})`] : []
  return [...parts, ...(door.policies.includes('None') ? ['none'] : [])].join(', or ')
}
const identityText = (i: number) => {
  const door = doorAt(i)
  const reads = outlet.value?.settings.anonymousMayWrite ? '' : ', reads only'
  return [door?.anonymous ? `anonymous${reads}` : '', door?.names ? 'name and password' : ''].filter(Boolean).join('; ')
}
/** What to ask for in words that fit any firewall: direction, protocol, port, from where, to where. */
const rules = computed(() =>
  (outlet.value?.settings.doors ?? [])
    .filter((door) => door.on && isOpenToOthers(door))
    .flatMap((door) =>
      (live.status?.interfaces ?? [])
        .filter(({ address }) => door.interface === '0.0.0.0' || door.interface === address)
        .map(({ address, network }) => `allow in · TCP ${door.port} · from ${network} · to ${address}`),
    ),
)
const ago = (at: number) => duration(Math.max(0, (live.status?.now ?? at) - at))
const flowOf = (client: ClientStatus): Flow => ((live.status?.now ?? 0) - client.lastAskedAt < 30_000 ? 'flowing' : 'late')

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
      <v-btn v-if="outlet && session.can('configure')" color="break" @click="asking = true">Remove…</v-btn>
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
                <td>{{ securityText(i) }}</td>
                <td>{{ identityText(i) }}</td>
              </tr>
              <tr v-if="!status?.doors.length">
                <td><PipeGlyph flow="off" :width="38" /></td>
                <td colspan="4" class="quiet">closed</td>
              </tr>
            </tbody>
          </table>
        </section>
        <FaultNote v-if="status?.fault" :fault="status.fault" />
        <section v-if="rules.length" class="sheet part">
          <h2 class="sheet-title">To ask of the firewall <span class="quiet light">so that others reach the doors opened to them</span></h2>
          <p v-for="rule in rules" :key="rule" class="rule mono">
            {{ rule }} <v-btn height="22" class="copy" @click="copy(rule)">{{ copied === rule ? 'Copied' : 'Copy' }}</v-btn>
          </p>
        </section>
        <section class="sheet part">
          <h2 class="sheet-title">Clients</h2>
          <table v-if="status?.clients.length" class="rows">
            <thead>
              <tr>
                <th></th>
                <th>Client</th>
                <th>From</th>
                <th>As</th>
                <th>Since</th>
                <th class="number">Items</th>
                <th>Last asked</th>
                <th></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="client in status.clients" :key="client.id">
                <td><PipeGlyph :flow="flowOf(client)" :width="38" /></td>
                <td>{{ client.name }}</td>
                <td class="mono">{{ client.from }}</td>
                <td>{{ client.identity }}, {{ client.security }}</td>
                <td>{{ ago(client.since) }}</td>
                <td class="number">{{ client.items }}</td>
                <td class="quiet">{{ client.lastAsked }} {{ ago(client.lastAskedAt) }} ago</td>
                <td>
                  <Allowed role="operate"><v-btn height="24" @click="disconnect(client)">Disconnect</v-btn></Allowed>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else class="quiet">Nobody is connected. An OPC UA client uses one of the addresses above.</p>
        </section>
      </div>
      <div class="side">
        <section v-if="status?.waiting.length" class="sheet part door">
          <h2 class="sheet-title">
            At the door <span class="quiet light">{{ status.waiting.length }} waiting</span>
          </h2>
          <KnockCard v-for="knock in status.waiting" :key="knock.facts.fingerprint" :knock="knock" :now="live.status?.now ?? 0" />
        </section>
        <OutletSheet
          :key="outlet.id"
          :initial="{ name: outlet.name, kind: outlet.kind, on: outlet.on, settings: outlet.settings }"
          :outlet="outlet"
          @saved="
            (saved) => {
              outlet = saved
              lists.refresh()
            }
          "
        />
        <section class="sheet part sees">
          <h2 class="sheet-title">What they see</h2>
          <p>
            {{ counted(live.status?.tags ?? 0, 'tag') }} in the folders of their paths, below Objects. {{ counted(writable, 'tag') }} may be
            written.
          </p>
          <p class="quiet">NodeId of a tag: <span class="mono">nsu=urn:keen-conduit:tags;s=</span> and its path.</p>
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
.rule {
  margin: 6px 0 0;
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
