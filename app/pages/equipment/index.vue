<script setup lang="ts">
import { counted } from '#core/text/counted'
import { nameOf } from '#core/tags/path'
import { removeEquipment, showEquipment } from '#shared/api/equipment'
import type { ShownEquipment } from '#shared/equipment/equipment'

/** Equipment, level by level; of the one that is open everything that it has, now. */
const route = useRoute()
const live = useLive()
const notices = useNotices()
const store = useEquipment()
await store.whenLoaded()

const at = computed(() => store.model.equipment.get(Number(route.query.at)) ?? store.model.children('')[0] ?? null)
const shown = shallowRef<ShownEquipment | null>(null)
const refused = shallowRef<Refused | null>(null)
let turn = 0
const load = async () => {
  const mine = ++turn
  if (!at.value) return void (shown.value = null)
  try {
    const found = await callApi(showEquipment, { params: { id: at.value.id } })
    if (mine === turn) shown.value = found
    refused.value = null
  } catch (error) {
    if (mine === turn) refused.value = asRefused(error)
  }
}
watch([() => at.value?.id, () => live.changes], load, { immediate: true })

const open = (id: number) => navigateTo({ path: '/equipment', query: { at: id } }, { replace: true })
const asking = ref(false)
const below = computed(() => (at.value ? store.model.below(at.value.path).length : 0))
const remove = async () => {
  const { id, path } = at.value!
  asking.value = false
  try {
    const { revision } = await callApi(removeEquipment, { params: { id } })
    notices.tell(`Equipment “${path}” removed.`, revision)
    await navigateTo('/equipment')
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
const summary = computed(() => {
  const properties = shown.value?.properties ?? []
  const of = (kind: string) => properties.filter(({ made }) => made.kind === kind).length
  const bound = properties.filter((property) => property.of.kind === 'input' && property.of.path !== '').length
  const parts = [
    counted(properties.length, 'property', 'properties'),
    of('input') > 0 && `${bound} of ${of('input')} inputs bound`,
    of('formula') > 0 && `${of('formula')} by formula`,
    of('rollup') > 0 && `${of('rollup')} rolled up`,
    of('gather') > 0 && `${of('gather')} of children`,
  ]
  return parts.filter(Boolean).join(' · ')
})
/** Inputs that no tag is bound to, wherever they are. */
const unbound = computed(() =>
  store.equipment.flatMap((piece) =>
    store.model
      .propertiesOf(piece.class)
      .filter(({ made, name }) => made.kind === 'input' && !piece.bindings[name])
      .map(({ name, title }) => ({ id: piece.id, path: piece.path, title: title || name })),
  ),
)
const listing = ref(false)
const mostListed = 200
useListKeys(() => '/equipment/new')
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <h1>Equipment</h1>
      <span class="quiet">{{ at ? at.path.split('/').join(' › ') : '' }}</span>
      <span class="fill" />
      <v-btn v-if="unbound.length" color="copper" :aria-expanded="listing" @click="listing = !listing"
        >{{ counted(unbound.length, 'input') }} unbound</v-btn
      >
      <v-btn to="/equipment/classes">Classes</v-btn>
      <Allowed role="configure"><v-btn to="/equipment/bulk">Many at once</v-btn></Allowed>
      <Allowed role="configure">
        <v-btn variant="flat" :to="`/equipment/new${at ? `?in=${encodeURIComponent(at.path)}` : ''}`">New equipment</v-btn>
      </Allowed>
    </div>
    <EmptyState
      v-if="store.loaded && store.equipment.length === 0"
      title="No equipment yet"
      text="A class says what equipment of one kind has: constants, inputs, formulas, and rollups over minutes or days. Equipment of a class is bound to tags, and all of its properties are tags, too."
    >
      <Allowed role="configure"
        ><v-btn variant="flat" :to="store.classes.length ? '/equipment/new' : '/equipment/classes/new'">{{
          store.classes.length ? 'Make equipment' : 'Make a class'
        }}</v-btn></Allowed
      >
    </EmptyState>
    <FaultNote v-if="refused" :fault="refused.why" />
    <section v-if="listing && unbound.length" class="sheet unbound" tabindex="0">
      <table class="rows" aria-label="Inputs that nothing is bound to">
        <thead>
          <tr>
            <th>Equipment</th>
            <th>Input</th>
            <th><span class="visually-hidden">What to do</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in unbound.slice(0, mostListed)" :key="`${one.id} ${one.title}`">
            <td>{{ one.path }}</td>
            <td class="is-late">{{ one.title }}</td>
            <td><NuxtLink :to="`/equipment/${one.id}`">bind it</NuxtLink></td>
          </tr>
        </tbody>
      </table>
      <p v-if="unbound.length > mostListed" class="quiet more">and {{ (unbound.length - mostListed).toLocaleString('en-GB') }} more</p>
    </section>
    <template v-if="store.equipment.length">
      <section class="sheet top">
        <EquipmentColumns :model="store.model" :at="at" class="levels" @open="open" />
        <div v-if="at" class="about">
          <p>
            <strong>{{ nameOf(at.path) }}</strong>
            <template v-if="at.class">
              of the class
              <NuxtLink :to="`/equipment/classes/${store.classes.find(({ name }) => name === at?.class)?.id ?? ''}`" class="chip">{{
                at.class
              }}</NuxtLink></template
            >
            <span class="quiet"> · {{ store.model.levelOf(at) }}</span>
          </p>
          <p class="quiet">{{ summary }}</p>
          <p v-if="at.description">{{ at.description }}</p>
          <p v-for="relation in at.relations" :key="`${relation.kind} ${relation.to}`" class="quiet">
            {{ relation.kind }} {{ relation.to }}
          </p>
          <PastAlong :id="at.id" :key="at.id" />
          <div class="buttons">
            <Allowed role="configure">
              <v-btn height="26" :to="`/equipment/${at.id}`">Edit</v-btn>
              <v-btn height="26" :to="`/equipment/new?like=${at.id}`">Make another</v-btn>
              <v-btn height="26" color="break" @click="asking = true">Remove …</v-btn>
            </Allowed>
            <v-btn height="26" :to="`/tags?below=${encodeURIComponent(at.path)}`">Its tags</v-btn>
          </div>
        </div>
      </section>
      <section v-if="shown" class="sheet properties"><PropertyTable :equipment="shown" /></section>
    </template>
    <AskDialog v-model="asking" :title="`Remove “${at?.path}”?`" yes="Remove" no="Keep" grave @yes="remove">
      <p>Its tags go with it{{ below > 0 ? `, and ${counted(below, 'part')} of it` : '' }}. What was recorded stays.</p>
    </AskDialog>
  </div>
</template>

<style scoped>
.top {
  display: flex;
  flex: 0 0 220px;
  min-height: 0;
  overflow: hidden;
}
.levels {
  flex: 0 1 auto;
  max-width: 66%;
}
.about {
  flex: 1;
  padding: 14px 16px;
  overflow: auto;
}
.about p {
  margin: 0 0 6px;
}
.about strong {
  font-size: 15px;
  font-weight: 600;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 10px;
}
.unbound {
  flex: 0 1 auto;
  max-height: 240px;
  overflow: auto;
  margin-bottom: 12px;
}
.more {
  padding: 0 12px;
}
.properties {
  margin-top: 12px;
  overflow: auto;
  flex: 0 1 auto;
}
</style>
