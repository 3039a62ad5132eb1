<script setup lang="ts">
import { removeOutlet, showOutlet } from '#shared/api/outlets'
import { counted } from '#core/text/counted'
import { outletFactsOf } from '#core/outlets/registry'
import type { Outlet } from '#shared/outlets/outlet'
import { outletFaceOf } from '~/outlets/registry'

const route = useRoute()
const live = useLive()
const session = useSession()
const id = Number(route.params.id)
const outlet = shallowRef<Outlet | null>(null)
const refused = ref<Refused | null>(null)
const { asking, remove } = useRemoval('Outlet', '/outlets', () => callApi(removeOutlet, { params: { id } }))
try {
  outlet.value = await callApi(showOutlet, { params: { id } })
} catch (error) {
  refused.value = asRefused(error)
}

const status = computed(() => live.status?.outlets.find((known) => known.id === id) ?? null)
const can = computed(() => outlet.value && outletFactsOf(outlet.value.kind).capabilities)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/outlets" class="trail">Outlets ›</NuxtLink>
      <h1>{{ outlet?.name ?? 'Outlet' }}</h1>
      <PipeGlyph v-if="status" :flow="status.flow" :width="58" />
      <span v-if="status" :class="status.flow === 'flowing' ? 'quiet' : `is-${status.flow}`"
        >{{ status.sentence
        }}<template v-if="status.flow === 'flowing'"> · {{ status.changesPerSecond.toLocaleString('en-GB') }} changes/s</template></span
      >
      <span class="fill" />
      <span v-if="outlet" class="head-buttons">
        <v-btn :to="`/outlets/${id}/path`">Path check</v-btn>
        <v-btn v-if="can?.clients && session.can('operate')" :to="`/outlets/${id}/calls`">Client calls</v-btn>
        <v-btn v-if="can?.tap && session.can('configure')" :to="`/traffic?outlet=${id}`">Its traffic</v-btn>
        <v-btn v-if="can?.map" :to="`/outlets/${id}/map`">Register map</v-btn>
        <v-btn v-if="can?.names" :to="`/outlets/${id}/names`">Short names</v-btn>
        <v-btn v-if="can?.card" :to="`/outlets/${id}/card`">Card for the consumer’s side</v-btn>
        <v-btn variant="flat" :to="`/outlets/${id}/settings`">Settings</v-btn>
        <v-btn v-if="session.can('configure')" color="break" @click="asking = true">Remove…</v-btn>
      </span>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <component :is="outletFaceOf(outlet.kind).view" v-if="outlet" :outlet="outlet" :status="status">
      <ClientTable v-if="can?.clients" :outlet-id="id" :clients="status?.clients ?? []" />
    </component>
    <AskDialog v-model="asking" :title="`Remove “${outlet?.name}”?`" yes="Remove outlet" no="Keep" grave @yes="remove(outlet!.name)">
      <p>
        {{ status?.clients.length ? `${counted(status.clients.length, 'client')} will be disconnected.` : 'No client is connected.' }} It
        can be taken back afterwards.
      </p>
    </AskDialog>
  </div>
</template>
