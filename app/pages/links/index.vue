<script setup lang="ts">
import { protocols } from '#core/links/registry'
import { duration } from '#core/text/duration'
import { placeOf } from '#shared/links/link'

const live = useLive()
const lists = useLists()
const filter = ref('')
const statusOf = (id: number) => live.status?.links.find((link) => link.id === id) ?? null
const shown = computed(() =>
  lists.links.filter((link) => `${link.name} ${placeOf(link)}`.toLowerCase().includes((filter.value ?? '').toLowerCase())),
)
useListKeys(() => '/links/new')
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Links</h1>
      <v-text-field
        v-if="lists.links.length"
        v-model="filter"
        data-filter
        class="filter"
        placeholder="Filter by name or address"
        aria-label="Filter by name or address"
        clearable
      />
      <span class="fill" />
      <Allowed role="configure"><v-btn variant="flat" to="/links/new">New link</v-btn></Allowed>
    </div>
    <EmptyState
      v-if="lists.loaded && lists.links.length === 0"
      title="No link yet"
      text="A link is the way to one outside party: a device, a controller, a server."
    >
      <v-btn v-for="protocol in protocols" :key="protocol.kind" variant="flat" :to="`/links/new?kind=${protocol.kind}`"
        >Connect by {{ protocol.title }}</v-btn
      >
    </EmptyState>
    <section v-else class="sheet">
      <table class="rows">
        <thead>
          <tr>
            <th>Name</th>
            <th>Flow</th>
            <th>What is happening</th>
            <th>Speaks</th>
            <th>Address</th>
            <th class="number">Tags</th>
            <th class="number">Answers in</th>
            <th class="number">Connections</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="link in shown"
            :key="link.id"
            class="opens"
            tabindex="0"
            @click="navigateTo(`/links/${link.id}`)"
            @keydown.enter="navigateTo(`/links/${link.id}`)"
          >
            <td>
              <strong>{{ link.name }}</strong>
            </td>
            <td><PipeGlyph :flow="statusOf(link.id)?.flow ?? 'waiting'" /></td>
            <td :class="`is-${statusOf(link.id)?.flow}`">{{ statusOf(link.id)?.sentence ?? 'The engine is not there' }}</td>
            <td>{{ protocols[link.kind].title }}</td>
            <td class="mono">{{ placeOf(link) }}</td>
            <td class="number">{{ statusOf(link.id)?.tags ?? '—' }}</td>
            <td class="number">{{ statusOf(link.id)?.answerMs == null ? '—' : duration(statusOf(link.id)!.answerMs!) }}</td>
            <td class="number">{{ statusOf(link.id)?.connections ?? '—' }}</td>
          </tr>
          <tr v-if="shown.length === 0 && lists.loaded">
            <td colspan="8" class="quiet">No link goes by “{{ filter }}”.</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.filter {
  max-width: 260px;
}
strong {
  font-weight: 600;
}
</style>
