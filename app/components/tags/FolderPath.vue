<script setup lang="ts">
import { listWhole } from '#shared/api/lists'
import { listInside } from '#shared/api/tags'
import type { TagFilter } from '~/composables/useTagFilter'

/** Where in the folders one is: the way here on the left, the folders inside as chips. */
const props = defineProps<{ filter: TagFilter }>()
const emit = defineEmits<{ go: [folder: string] }>()
const live = useLive()
const session = useSession()
const inside = shallowRef<{ folder: string; name: string; tags: number }[]>([])
const moving = ref(false)
const copying = ref(false)

const way = computed(() => {
  const names = props.filter.below === '' ? [] : props.filter.below.split('/')
  return names.map((name, i) => ({ name, folder: names.slice(0, i + 1).join('/') }))
})
let turn = 0
const load = async () => {
  const mine = ++turn
  const { find, ...which } = props.filter
  const found = await callApi(listInside, { query: { ...which, words: find, limit: listWhole } }).catch(() => null)
  if (mine === turn && found) inside.value = found.items
}
watch([() => props.filter, () => live.changes], load, { immediate: true })
</script>

<template>
  <nav v-if="way.length > 0 || inside.length > 0" class="folders" aria-label="Folders">
    <button type="button" class="step" :disabled="way.length === 0" @click="emit('go', '')">All folders</button>
    <template v-for="(step, i) in way" :key="step.folder">
      <span class="quiet">/</span>
      <button type="button" class="step" :disabled="i === way.length - 1" @click="emit('go', step.folder)">{{ step.name }}</button>
    </template>
    <v-btn v-if="way.length > 0 && session.can('configure')" height="22" class="move" @click="moving = true">Rename or move</v-btn>
    <v-btn v-if="way.length > 0 && session.can('configure')" height="22" @click="copying = true">Copy</v-btn>
    <span v-if="inside.length > 0" class="inside">
      <button v-for="{ folder, name, tags } in inside" :key="folder" type="button" class="chip" :title="folder" @click="emit('go', folder)">
        {{ name }} <span class="quiet">{{ tags.toLocaleString('en-GB') }}</span>
      </button>
    </span>
    <CopyDialog v-if="copying" v-model="copying" :from="filter.below" @copied="emit('go', $event)" />
    <MoveDialog v-if="moving" v-model="moving" :from="filter.below" @moved="emit('go', $event)" />
  </nav>
</template>

<style scoped>
.folders {
  display: flex;
  align-items: center;
  gap: 6px;
  margin: -2px 0 8px;
  min-height: 26px;
}
.step {
  color: var(--ink-link, rgb(var(--v-theme-primary)));
  white-space: nowrap;
}
.step:disabled {
  color: inherit;
  font-weight: 600;
}
.move {
  margin: 0 4px;
}
.inside {
  display: flex;
  gap: 6px;
  overflow-x: auto;
  margin-left: 6px;
  padding-bottom: 2px;
  scrollbar-width: thin;
}
.inside .chip {
  border: 1px solid var(--line);
  background: var(--surface);
  padding: 1px 7px;
  white-space: nowrap;
  flex: none;
}
</style>
