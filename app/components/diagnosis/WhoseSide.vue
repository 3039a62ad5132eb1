<script setup lang="ts">
import { counted } from '#core/text/counted'
import type { Flow } from '#shared/flow'
import type { LinkStatus, OutletStatus } from '#shared/status'

/** The whole way as one pipe, with the break in it: the far side, us, and who is served from here. */
const props = defineProps<{
  far: string
  link: LinkStatus
  /** Values are read over it: that it flows says that they come. */
  reads: boolean
  outlets: OutletStatus[]
  nameOf: (outlet: number) => string
}>()

const isBroken = (flow: Flow) => flow === 'broken' || flow === 'late'
const sentence = computed(() => {
  const past = props.outlets.filter(({ flow }) => isBroken(flow))
  if (isBroken(props.link.flow) && past.length === 0)
    return props.outlets.length === 0
      ? 'The break is before us. Nobody is served from this link yet.'
      : 'The break is before us. Past us all is sound: consumers are served, and get these values with the quality that they have here.'
  if (isBroken(props.link.flow)) return `It breaks on both sides of us: ${past.map(({ id }) => props.nameOf(id)).join(', ')} too.`
  if (!props.reads) return 'No tag is read over this link yet, so nothing tells whether values would come: the check beside this does.'
  if (past.length > 0) return `Values come in. The break is past us, at ${past.map(({ id }) => props.nameOf(id)).join(', ')}.`
  return 'Values come in and go out. If a consumer sees none, the fault is on its side, or between.'
})
</script>

<template>
  <section class="sheet sides">
    <h2 class="sheet-title">Whose side?</h2>
    <div class="way">
      <span class="end">{{ far }}</span>
      <PipeGlyph :flow="link.flow" :width="50" />
      <span class="end">Keen Conduit</span>
      <span class="fan">
        <span v-for="outlet in outlets" :key="outlet.id" class="branch">
          <PipeGlyph :flow="outlet.flow" :width="50" />
          <NuxtLink class="end" :to="`/outlets/${outlet.id}`">{{ nameOf(outlet.id) }}</NuxtLink>
          <span class="quiet">{{ counted(outlet.clients.length, 'client') }}</span>
        </span>
      </span>
    </div>
    <p class="quiet">{{ sentence }}</p>
  </section>
</template>

<style scoped>
.sides {
  padding: 12px 18px;
}
.way {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin: 6px 0;
}
.end {
  border: 1px solid var(--line);
  border-radius: 5px;
  padding: 2px 8px;
  font-size: 12px;
  overflow-wrap: anywhere;
  text-decoration: none;
}
.fan {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.branch {
  display: flex;
  align-items: center;
  gap: 8px;
  font-size: 12px;
}
p {
  margin: 4px 0 0;
}
</style>
