<script setup lang="ts">
import { folded } from '#core/lists/folded'
import { counted } from '#core/text/counted'

/** Who is connected to our outlets; of many, those that still ask are folded by outlet. */
const live = useLive()
const lists = useLists()

const clients = computed(() =>
  (live.status?.outlets ?? []).flatMap(({ id, clients: some }) => {
    const outlet = lists.outlets.find((one) => one.id === id)?.name ?? ''
    return some.map((client) => ({ ...client, outletId: id, outlet }))
  }),
)
const shown = computed(() =>
  folded(
    [...clients.value].sort((a, b) => urgency[a.flow] - urgency[b.flow]),
    { most: mostShown, isWell: ({ flow }) => flow === 'flowing', kindOf: ({ outletId }) => String(outletId) },
  ),
)
</script>

<template>
  <LineUpPart title="Clients on our outlets">
    <table v-if="clients.length" class="rows">
      <tbody>
        <tr v-for="client in shown.shown" :key="`${client.outletId} ${client.id}`">
          <td class="name" :title="client.name">{{ client.name }}</td>
          <td class="quiet name" :title="client.outlet">{{ client.outlet }} · {{ client.identity }}, {{ client.security }}</td>
          <td class="number">{{ counted(client.items, 'item') }}</td>
          <td><PipeGlyph :flow="client.flow" :width="42" /></td>
        </tr>
        <tr v-for="{ kind, all } in shown.groups" :key="kind">
          <td>
            <NuxtLink :to="`/outlets/${kind}`">{{ counted(all.length, shown.shown.length > 0 ? 'other client' : 'client') }}</NuxtLink>
          </td>
          <td class="quiet name" :title="all[0]!.outlet">{{ all[0]!.outlet }}</td>
          <td class="number">
            {{
              counted(
                all.reduce((total, { items }) => total + items, 0),
                'item',
              )
            }}
          </td>
          <td><PipeGlyph flow="flowing" :width="42" /></td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet">Nobody is connected.</p>
  </LineUpPart>
</template>

<style scoped>
.name {
  max-width: 200px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
