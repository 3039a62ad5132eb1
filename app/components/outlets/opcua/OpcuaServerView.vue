<script setup lang="ts">
import { tagSummary } from '#shared/api/tags'
import { counted } from '#core/text/counted'
import { rightText } from '#core/outlets/rules'
import type { OpcuaServerDetails } from '#shared/outlets/opcuaServerStatus'
import { identityText, rulesText, securityText } from '#shared/outlets/opcuaServerCard'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import type { OutletStatus } from '#shared/status'

/** How an OPC UA server is: its doors, who stands at them, and what whoever comes in sees. */
const props = defineProps<{ outlet: Outlet; status: OutletStatus | null }>()
const live = useLive()
const settings = computed(() => settingsAs('opcua-server', props.outlet)!)
const details = computed<OpcuaServerDetails | null>(() => (props.status?.details?.kind === 'opcua-server' ? props.status.details : null))

const writable = ref(0)
watch(
  () => live.changes,
  async () => {
    const page = await callApi(tagSummary).catch(() => null)
    writable.value = page?.writable ?? 0
  },
  { immediate: true },
)
const doorAt = (i: number) => settings.value.doors[i]
const dialledAt = (i: number) => settings.value.dialled[i]
const securityOf = (i: number) => (doorAt(i) ? securityText(doorAt(i)!) : '')
const identityOf = (i: number) => (doorAt(i) ? identityText(doorAt(i)!) : '')
const showsRequests = computed(() => {
  const { points, refused } = details.value?.onRequest ?? { points: [], refused: [] }
  return settings.value.onRequest.on || points.length + refused.length > 0
})
</script>

<template>
  <OutletColumns>
    <DoorTable :doors="details?.doors ?? []" :security="securityOf" :identity="identityOf" />
    <DialledTable
      v-if="details?.dialled.length"
      :clients="details.dialled"
      :security="(i) => (dialledAt(i) ? securityText(dialledAt(i)!) : '')"
      :identity="(i) => (dialledAt(i) ? identityText(dialledAt(i)!) : '')"
    />
    <FaultNote v-if="status?.fault" :fault="status.fault" />
    <slot />
    <RequestedPoints v-if="details && showsRequests" :requested="details.onRequest" :now="live.status?.now ?? 0" />
    <DoorCheck
      v-if="details?.doors.length"
      :outlet-id="outlet.id"
      :doors="settings.doors"
      :status="details.doors"
      :interfaces="live.status?.interfaces ?? []"
      :now="live.status?.now ?? 0"
    />
    <template #side>
      <section v-if="details?.waiting.length" class="sheet part door">
        <h2 class="sheet-title">
          At the door <span class="quiet light">{{ details.waiting.length }} waiting</span>
        </h2>
        <KnockCard v-for="knock in details.waiting" :key="knock.facts.fingerprint" :knock="knock" :now="live.status?.now ?? 0" />
      </section>
      <section class="sheet part sees">
        <h2 class="sheet-title">What they see</h2>
        <p v-for="rule in settings.shows" :key="rule.folder">
          <span class="chip mono inline">{{ rule.folder ? `${rule.folder}/…` : 'the whole site' }}</span> {{ rightText[rule.may] }}
        </p>
        <p v-if="settings.health"><span class="chip mono inline">Links/…</span> the health of the links</p>
        <p v-if="settings.shortNames.on">
          <NuxtLink :to="`/outlets/${outlet.id}/names`">Also flat, by short names</NuxtLink> of at most
          {{ settings.shortNames.most }} characters
        </p>
        <p class="quiet">
          {{ counted(live.status?.tags ?? 0, 'tag') }} on this site, {{ writable }} mapped for writing. NodeId of a tag:
          <span class="mono">nsu=urn:keen-conduit:tags;s=</span> and its path.
        </p>
      </section>
      <section class="sheet part">
        <h2 class="sheet-title">Who may come in</h2>
        <p v-if="[...settings.doors, ...settings.dialled].some((way) => way.anonymous)">
          <strong>Anonymous</strong> <span class="quiet">{{ rulesText(settings.anonymous) }}</span>
        </p>
        <p v-for="user in settings.users" :key="user.name">
          <strong>{{ user.name }}</strong>
          <span class="quiet"> by {{ user.key.kind }} · {{ rulesText(user.rules) }}</span>
        </p>
        <p class="quiet">
          Applications are let in at the door, and listed under <NuxtLink to="/site/certificates">Certificates</NuxtLink>.
        </p>
      </section>
    </template>
  </OutletColumns>
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
strong {
  font-weight: 600;
}
.light {
  font-weight: 400;
}
</style>
