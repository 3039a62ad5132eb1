<script setup lang="ts">
import { folded } from '#core/lists/folded'
import type { Flow } from '#shared/flow'

/** Our outlets and how they are; of many, those that are well in one line. */
const live = useLive()
const lists = useLists()

const outlets = computed(() => {
  const byId = new Map((live.status?.outlets ?? []).map((status) => [status.id, status]))
  return lists.outlets
    .map(({ id, name }) => ({ id, name, flow: byId.get(id)?.flow ?? null, sentence: byId.get(id)?.sentence ?? '' }))
    .sort((a, b) => urgency[a.flow ?? 'late'] - urgency[b.flow ?? 'late'])
})
const shown = computed(() =>
  folded(outlets.value, { most: mostShown, isWell: ({ flow }) => flow === 'flowing' || flow === 'off', kindOf: ({ flow }) => flow ?? '' }),
)
const words: Partial<Record<string, string>> = { flowing: 'open', off: 'switched off' }
</script>

<template>
  <LineUpPart title="Outlets">
    <table v-if="outlets.length" class="rows">
      <tbody>
        <tr v-for="outlet in shown.shown" :key="outlet.id">
          <td class="name">
            <NuxtLink :to="`/outlets/${outlet.id}`">{{ outlet.name }}</NuxtLink>
          </td>
          <td class="quiet">{{ outlet.sentence }}</td>
          <td><PipeGlyph :flow="outlet.flow ?? 'waiting'" :width="42" /></td>
        </tr>
        <tr v-for="{ kind, all } in shown.groups" :key="kind">
          <td>
            <NuxtLink to="/outlets">{{ all.length }} {{ shown.shown.length > 0 ? 'others' : 'outlets' }}</NuxtLink>
          </td>
          <td class="quiet">all {{ words[kind] }}</td>
          <td><PipeGlyph :flow="kind as Flow" :width="42" /></td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet">Nothing serves the values yet. <NuxtLink to="/outlets/new">Open an OPC UA server</NuxtLink></p>
  </LineUpPart>
</template>

<style scoped>
.name {
  max-width: 260px;
  overflow-wrap: anywhere;
}
</style>
