<script setup lang="ts">
import type { Link } from '#shared/links/link'

const route = useRoute()
const live = useLive()
const lists = useLists()
const notices = useNotices()
const id = computed(() => Number(route.params.id))
const link = shallowRef<Link | null>(null)
const refused = ref<Refused | null>(null)
const removing = ref(false)
const status = computed(() => live.status?.links.find((known) => known.id === id.value) ?? null)

const load = async () => {
  try {
    link.value = await callApi<Link>(`/links/${id.value}`)
  } catch (error) {
    refused.value = asRefused(error)
  }
}
await load()

const remove = async () => {
  try {
    await callApi(`/links/${id.value}?tags=remove`, { method: 'DELETE' })
    const name = link.value!.name
    removing.value = false
    await navigateTo('/links')
    const [last] = await callApi<{ number: number }[]>('/revisions?limit=1')
    notices.tell(`Link “${name}” removed.`, last?.number ?? null)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/links" class="trail">Links ›</NuxtLink>
      <h1>{{ link?.name ?? 'Link' }}</h1>
      <PipeGlyph v-if="status" :flow="status.flow" :width="58" />
      <span v-if="status" :class="`is-${status.flow}`">{{ status.sentence }}</span>
      <span class="fill" />
      <v-btn v-if="link" :to="`/tags?link=${link.id}`">Its tags</v-btn>
      <v-btn v-if="link" :to="`/tags/new?link=${link.id}`">New tag</v-btn>
      <v-btn v-if="link" color="break" @click="removing = true">Remove…</v-btn>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" />
    <LinkSheet
      v-if="link"
      :key="link.id"
      :kind="link.kind"
      :initial="{ name: link.name, kind: link.kind, on: link.on, settings: link.settings }"
      :link="link"
      @saved="link = $event"
    >
      <template #beside><UnitTable v-if="status" :status="status" /></template>
    </LinkSheet>
    <v-dialog v-model="removing" max-width="440">
      <div class="sheet ask">
        <h2 class="sheet-title">Remove “{{ link?.name }}”?</h2>
        <p v-if="status?.tags">
          {{ status.tags }} {{ status.tags === 1 ? 'tag reads' : 'tags read' }} through it and {{ status.tags === 1 ? 'goes' : 'go' }} with
          it{{ lists.outlets.length ? ', and clients lose them' : '' }}.
        </p>
        <p>It can be taken back afterwards.</p>
        <div class="buttons">
          <v-btn variant="flat" color="break" @click="remove">{{
            status?.tags ? `Remove link and ${status.tags} tags` : 'Remove link'
          }}</v-btn>
          <v-btn @click="removing = false">Keep</v-btn>
        </div>
      </div>
    </v-dialog>
  </div>
</template>

<style scoped>
.ask {
  padding: 18px 20px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
p {
  margin: 6px 0 0;
}
</style>
