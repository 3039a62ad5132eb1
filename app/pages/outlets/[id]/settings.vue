<script setup lang="ts">
import { showOutlet } from '#shared/api/outlets'
import type { Outlet } from '#shared/outlets/outlet'

const id = Number(useRoute().params.id)
const lists = useLists()
const outlet = shallowRef<Outlet | null>(null)
const refused = ref<Refused | null>(null)
try {
  outlet.value = await callApi(showOutlet, { params: { id } })
} catch (error) {
  refused.value = asRefused(error)
}
const saved = (next: Outlet) => {
  outlet.value = next
  void lists.refresh()
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink :to="`/outlets/${id}`" class="trail">{{ outlet?.name ?? 'Outlet' }} ›</NuxtLink>
      <h1>Settings</h1>
      <span class="quiet">Doors that you do not touch stay open, with everybody who came in by them.</span>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <OutletSheet
      v-if="outlet"
      :key="outlet.id"
      :initial="{ name: outlet.name, kind: outlet.kind, on: outlet.on, nodeId: outlet.nodeId, settings: outlet.settings }"
      :outlet="outlet"
      @saved="saved"
    />
  </div>
</template>
