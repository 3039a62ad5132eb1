<script setup lang="ts">
import { counted } from '#core/text/counted'
import { listWallLinks } from '#shared/api/displays'
import type { WallLink } from '#shared/displays'

/** All displays: what they are shown for, and on which walls. */
const store = useDisplays()
const equipment = useEquipment()
const live = useLive()
const filter = ref('')
const walls = shallowRef<WallLink[]>([])
const loadWalls = async () => {
  walls.value = (await callApi(listWallLinks, { query: { limit: 500 } }).catch(() => ({ items: [] }))).items
}
watch(() => live.changes, loadWalls, { immediate: true })

const shownFor = (name: string) => {
  const pieces = equipment.equipment.filter((piece) => equipment.model.isKindOf(piece.class, name)).length
  return `each ${name}, ${pieces.toLocaleString('en-GB')} now`
}
const rows = computed(() =>
  store.displays
    .filter(fitting(filter.value, ({ name, class: of, description }) => `${name} ${of} ${description}`))
    .toSorted((a, b) => a.name.localeCompare(b.name))
    .map((one) => ({
      ...one,
      for: one.class === '' ? '' : shownFor(one.class),
      walls: walls.value.filter(({ displayId, expiresAt }) => displayId === one.id && Date.parse(expiresAt) > Date.now()).length,
    })),
)
useListKeys(() => '/displays/new')
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Displays</h1>
      <ListFilter v-if="store.displays.length" v-model="filter" label="Filter by name" />
      <span class="fill" />
      <Allowed role="configure"><v-btn variant="flat" to="/displays/new">New display</v-btn></Allowed>
    </div>
    <EmptyState
      v-if="store.loaded && store.displays.length === 0"
      title="No display yet"
      text="Values, states, trends, windows of time and what is not well, on one page that is arranged by dragging. Made for a class once, it is shown for each of its equipment; a wall screen shows it without anybody signed in."
    >
      <Allowed role="configure"><v-btn variant="flat" to="/displays/new">Make a display</v-btn></Allowed>
    </EmptyState>
    <section v-else class="sheet">
      <table class="rows" aria-label="Displays">
        <thead>
          <tr>
            <th><span class="visually-hidden">How it lies</span></th>
            <th>Name</th>
            <th>For</th>
            <th class="number">Panes</th>
            <th class="number">Wall screens</th>
            <th>Description</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in rows"
            :key="row.id"
            class="opens"
            tabindex="0"
            @click="navigateTo(`/displays/${row.id}`)"
            @keydown.enter="navigateTo(`/displays/${row.id}`)"
          >
            <td class="small"><GridSketch :panes="row.panes" /></td>
            <td>
              <strong>{{ row.name }}</strong>
            </td>
            <td>{{ row.for }}</td>
            <td class="number">{{ row.panes.length }}</td>
            <td class="number">{{ row.walls || '' }}</td>
            <td class="quiet">{{ row.description }}</td>
          </tr>
          <tr v-if="rows.length === 0">
            <td colspan="6" class="quiet">
              {{ store.loaded ? `No display goes by “${filter}”; there are ${counted(store.displays.length, 'display')}.` : '…' }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.small {
  width: 110px;
}
</style>
