<script setup lang="ts">
import { removeDisplay } from '#shared/api/displays'
import { displayFeed } from '~/displays/feed'

/** A display as it is looked at, for one equipment of its class. */
const route = useRoute()
const session = useSession()
const store = useDisplays()
const equipment = useEquipment()
await Promise.all([store.whenLoaded(), equipment.whenLoaded()])

const display = computed(() => store.displays.find(({ id }) => id === Number(route.params.id)) ?? null)
const pieces = computed(() => {
  const of = display.value?.class
  if (!of) return []
  return equipment.equipment.filter((one) => equipment.model.isKindOf(one.class, of)).map(({ path }) => path)
})
const at = computed({
  get: () => {
    const asked = String(route.query.for ?? '')
    return pieces.value.includes(asked) ? asked : (pieces.value[0] ?? '')
  },
  set: (path: string) => void navigateTo({ query: { ...route.query, for: path } }, { replace: true }),
})
const turn = (by: number) => {
  const all = pieces.value
  if (all.length > 1) at.value = all[(all.indexOf(at.value) + by + all.length) % all.length]!
}
const feed = useDisplayFeed(
  () => display.value?.panes ?? [],
  () => at.value,
)
provide(displayFeed, feed)

const walls = ref(false)
const { asking, remove } = useRemoval('Display', '/displays', () => callApi(removeDisplay, { params: { id: display.value!.id } }))
useRowKeys(() => ({
  ArrowLeft: () => turn(-1),
  ArrowRight: () => turn(1),
  Escape: () => (walls.value = false),
  ...(session.can('configure') && display.value ? { e: () => navigateTo(`/displays/${display.value!.id}/edit`) } : {}),
}))
</script>

<template>
  <SplitPage :open="walls && display !== null">
    <div class="page-head">
      <NuxtLink to="/displays" class="trail">Displays ›</NuxtLink>
      <h1>{{ display?.name ?? 'It is not there' }}</h1>
      <div v-if="pieces.length" class="for">
        <v-btn v-if="pieces.length > 1" height="30" aria-label="The equipment before (←)" title="The equipment before (←)" @click="turn(-1)"
          >‹</v-btn
        >
        <v-autocomplete v-model="at" :items="pieces" aria-label="For which equipment" class="piece" />
        <v-btn v-if="pieces.length > 1" height="30" aria-label="The next equipment (→)" title="The next equipment (→)" @click="turn(1)"
          >›</v-btn
        >
      </div>
      <span class="fill" />
      <template v-if="display">
        <v-btn @click="walls = !walls">Wall screens</v-btn>
        <Allowed role="configure">
          <v-btn :to="`/displays/new?like=${display.id}`">Make another</v-btn>
          <v-btn color="break" @click="asking = true">Remove …</v-btn>
          <v-btn variant="flat" :to="{ path: `/displays/${display.id}/edit`, query: at ? { for: at } : {} }">Edit</v-btn>
        </Allowed>
      </template>
    </div>
    <EmptyState
      v-if="!display"
      title="This display is not there"
      text="It was removed, or never was. Site has what was changed last, and takes it back."
    >
      <v-btn to="/displays">All displays</v-btn>
    </EmptyState>
    <EmptyState
      v-else-if="display.class && pieces.length === 0"
      :title="`There is no equipment of the class “${display.class}” yet`"
      text="This display is shown for each of them, as soon as there is one."
    >
      <v-btn to="/equipment/new">Make equipment</v-btn>
    </EmptyState>
    <EmptyState v-else-if="display.panes.length === 0" title="No pane yet" text="Panes are added, dragged and sized while it is edited.">
      <Allowed role="configure"><v-btn variant="flat" :to="`/displays/${display.id}/edit`">Edit</v-btn></Allowed>
    </EmptyState>
    <div v-else class="scroll"><DisplayGrid :key="`${display.revision} ${at}`" :panes="display.panes" /></div>
    <template #beside>
      <WallLinks v-if="walls && display" :display="display" :pieces="pieces" @close="walls = false" />
    </template>
    <AskDialog v-model="asking" :title="`Remove display “${display?.name}”?`" yes="Remove" no="Keep" grave @yes="remove(display!.name)">
      <p>Wall screens that show it go dark.</p>
    </AskDialog>
  </SplitPage>
</template>

<style scoped>
.for {
  display: flex;
  align-items: center;
  gap: 4px;
}
.for .v-btn {
  min-width: 34px;
}
.piece {
  width: 320px;
}
.scroll {
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
  padding: 5px 0 20px;
}
</style>
