<script setup lang="ts">
import { parametersOf } from '#core/endpoints/settings'
import { counted } from '#core/text/counted'
import { ageText, duration } from '#core/text/duration'
import { doorIdentityText } from '#shared/outlets/cardParts'
import { folderRulesText } from '#shared/outlets/httpServerCard'
import type { HttpServerDetails } from '#shared/outlets/httpServerStatus'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import type { OutletStatus } from '#shared/status'

/** How an HTTP server is: its doors, its endpoints and what came of them, who asks, and what it had to refuse. */
const props = defineProps<{ outlet: Outlet; status: OutletStatus | null }>()
const live = useLive()
const { copied, copy } = useCopy()
const settings = computed(() => settingsAs('http-server', props.outlet)!)
const details = computed<HttpServerDetails | null>(() => (props.status?.details?.kind === 'http-server' ? props.status.details : null))
const doorAt = (i: number) => settings.value.doors[i]
const securityOf = (i: number) => (doorAt(i)?.tls ? 'TLS' : 'not encrypted')
const identityOf = (i: number) => (doorAt(i) ? doorIdentityText(doorAt(i)!).replace('password', 'token') : '')
const now = computed(() => live.status?.now ?? 0)
const address = computed(() => details.value?.doors.find(({ flow }) => flow === 'flowing')?.address ?? '')
const ofEndpoint = (i: number) => details.value?.endpoints[i]
const flowOf = (i: number) => {
  const one = ofEndpoint(i)
  if (!one || one.lastStatus === null) return 'waiting' as const
  return one.lastStatus >= 500 ? ('broken' as const) : ('flowing' as const)
}
/** As a program on the command line asks for it. */
const curlOf = (i: number) => {
  const endpoint = settings.value.endpoints[i]!
  const all = parametersOf(endpoint)
  const query = all.filter((one) => one.in === 'query').map(({ name }) => `${name}=…`)
  const body = endpoint.method === 'GET' ? '' : ` -X ${endpoint.method} -H 'Content-Type: application/json' -d '{}'`
  return `curl${body} '${address.value}${endpoint.path}${query.length > 0 ? `?${query.join('&')}` : ''}'`
}
</script>

<template>
  <OutletColumns>
    <DoorTable :doors="details?.doors ?? []" :security="securityOf" :identity="identityOf" />
    <FaultNote v-if="status?.fault" :fault="status.fault" />
    <section class="sheet part">
      <h2 class="sheet-title">Endpoints <span class="quiet light">besides /tags and /changes</span></h2>
      <div v-if="settings.endpoints.length" class="room">
        <table class="rows">
          <thead>
            <tr>
              <th>Flow</th>
              <th>Endpoint</th>
              <th class="number">Asked</th>
              <th class="number">Failed</th>
              <th>Last</th>
              <th><span class="visually-hidden">Copy</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(endpoint, i) in settings.endpoints" :key="endpoint.method + endpoint.path">
              <td><PipeGlyph :flow="flowOf(i)" :width="38" /></td>
              <td class="wrap">
                <span class="mono">{{ endpoint.method }} {{ endpoint.path }}</span>
                <span class="below quiet">{{ endpoint.about }}</span>
              </td>
              <td class="number">{{ ofEndpoint(i)?.calls ?? 0 }}</td>
              <td class="number" :class="{ 'is-late': (ofEndpoint(i)?.failed ?? 0) > 0 }">{{ ofEndpoint(i)?.failed ?? 0 }}</td>
              <td class="tight">
                <template v-if="ofEndpoint(i)?.lastAt">
                  {{ ofEndpoint(i)!.lastStatus }} in {{ duration(ofEndpoint(i)!.lastMs ?? 0) }}
                  <span class="below quiet">{{ ageText(now - ofEndpoint(i)!.lastAt!) }}</span>
                </template>
                <span v-else class="quiet">not asked yet</span>
              </td>
              <td class="tight">
                <v-btn
                  height="24"
                  :aria-label="`${copied === curlOf(i) ? 'Copied' : 'Copy for curl'}: ${endpoint.method} ${endpoint.path}`"
                  @click="copy(curlOf(i))"
                  >{{ copied === curlOf(i) ? 'Copied' : 'Copy for curl' }}</v-btn
                >
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else class="quiet">
        None of your own. <NuxtLink :to="`/outlets/${outlet.id}/settings`">Add one</NuxtLink> to answer from a database, to show tags under
        other names, or to take messages for bridges.
      </p>
    </section>
    <slot />
    <RefusedActs :acts="details?.refused ?? []" :now="now" />
    <DoorCheck
      v-if="details?.doors.length"
      :outlet-id="outlet.id"
      :doors="settings.doors"
      :status="details.doors"
      :interfaces="live.status?.interfaces ?? []"
      :now="now"
    />
    <UnclaimedTopics :id="outlet.id" of="outlet" />
    <template #side>
      <section class="sheet part">
        <h2 class="sheet-title">Try it</h2>
        <p v-if="address">
          <a :href="`${address}/docs/`" target="_blank" rel="noopener">Its own page</a> tells what there is, and asks for it.
          <span class="below quiet"
            >The description is at <span class="mono">{{ address }}/openapi.json</span>, in OpenAPI 3.1.</span
          >
        </p>
        <p v-else class="quiet">No door is open.</p>
        <template v-if="details">
          <p>{{ details.requestsPerSecond }} requests/s, {{ details.underWay }} under way</p>
          <p>{{ counted(details.streams, 'program') }} {{ details.streams === 1 ? 'follows' : 'follow' }} changes</p>
        </template>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Who may do what</h2>
        <p v-if="settings.doors.some((door) => door.anonymous)">
          <strong>Without a name</strong> <span class="quiet">{{ folderRulesText(settings.anonymous) }}</span>
        </p>
        <p v-for="user in settings.users" :key="user.name">
          <strong>{{ user.name }}</strong> <span class="quiet">{{ folderRulesText(user.rules) }}</span>
        </p>
      </section>
    </template>
  </OutletColumns>
</template>

<style scoped>
.room {
  max-height: 520px;
  overflow: auto;
}
.below {
  display: block;
}
strong {
  font-weight: 600;
}
.light {
  font-weight: 400;
}
.tight {
  white-space: nowrap;
}
.wrap {
  overflow-wrap: anywhere;
}
</style>
