<script setup lang="ts">
import { counted } from '#core/text/counted'

const store = useEquipment()
const filter = ref('')
const rows = computed(() =>
  store.classes.filter(fitting(filter.value, ({ name, description }) => `${name} ${description}`)).map((one) => ({
    ...one,
    all: store.model.propertiesOf(one.name).length,
    pieces: store.equipment.filter((piece) => store.model.isKindOf(piece.class, one.name)).length,
  })),
)
useListKeys(() => '/equipment/classes/new')
</script>

<template>
  <div class="page">
    <div class="page-head">
      <NuxtLink to="/equipment" class="trail">Equipment ›</NuxtLink>
      <h1>Classes</h1>
      <ListFilter v-if="store.classes.length" v-model="filter" label="Filter by name" />
      <span class="fill" />
      <Allowed role="configure"><v-btn variant="flat" to="/equipment/classes/new">New class</v-btn></Allowed>
    </div>
    <EmptyState
      v-if="store.loaded && store.classes.length === 0"
      title="No class yet"
      text="A class says what equipment of one kind has. Whatever is changed in it afterwards, all of its equipment follows."
    >
      <Allowed role="configure"><v-btn variant="flat" to="/equipment/classes/new">Make a class</v-btn></Allowed>
    </EmptyState>
    <section v-else class="sheet">
      <table class="rows" aria-label="Classes">
        <thead>
          <tr>
            <th>Name</th>
            <th>Made from</th>
            <th>Level</th>
            <th class="number">Properties</th>
            <th class="number">Equipment</th>
            <th>Description</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in rows"
            :key="row.id"
            class="opens"
            tabindex="0"
            @click="navigateTo(`/equipment/classes/${row.id}`)"
            @keydown.enter="navigateTo(`/equipment/classes/${row.id}`)"
          >
            <td>
              <strong>{{ row.name }}</strong>
            </td>
            <td>{{ row.parent }}</td>
            <td class="quiet">{{ row.level }}</td>
            <td class="number">{{ row.all }}</td>
            <td class="number">{{ row.pieces.toLocaleString('en-GB') }}</td>
            <td class="quiet">{{ row.description }}</td>
          </tr>
          <tr v-if="rows.length === 0">
            <td colspan="6" class="quiet">
              {{ store.loaded ? `No class goes by “${filter}”; there are ${counted(store.classes.length, 'class', 'classes')}.` : '…' }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
strong {
  font-weight: 600;
}
</style>
