<script setup lang="ts">
import { listNodeCodes, listNodes, showNodeDoor } from '#shared/api/nodes'
import type { NodeCode, NodeDoor, SavedNode } from '#shared/nodes'

/** Machines elsewhere that run links of this site: how each is, and how one more comes in. */
const live = useLive()
const session = useSession()
const nodes = shallowRef<SavedNode[] | null>(null)
const codes = shallowRef<NodeCode[]>([])
const door = shallowRef<NodeDoor | null>(null)
const refused = shallowRef<Refused | null>(null)
const now = ref(Date.now())

const load = async () => {
  try {
    const [all, open, opened] = await Promise.all([
      callApi(listNodes),
      session.can('configure') ? callApi(listNodeCodes).catch(() => []) : [],
      callApi(showNodeDoor),
    ])
    nodes.value = all
    codes.value = open
    door.value = opened.door
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
watch(() => live.changes, load, { immediate: true })
const everyMs = 1500
const timer = setInterval(() => {
  now.value = Date.now()
  if (codes.value.length > 0) void load()
}, everyMs)
onUnmounted(() => clearInterval(timer))
const shown = computed(() =>
  (nodes.value ?? []).map((node) => ({
    node,
    status: live.status?.nodes.find(({ id }) => id === node.id) ?? null,
    code: codes.value.find((code) => code.node === node.id && code.endsAt > now.value) ?? null,
  })),
)
</script>

<template>
  <div class="page">
    <SiteHead />
    <FaultNote v-if="refused" :fault="refused.why" />
    <div class="stack">
      <section v-if="nodes?.length === 0" class="sheet part">
        <h2 class="sheet-title">No node yet</h2>
        <p>
          A node is a machine near the devices that runs links of this site: no web side and no database of its own, set up by one command.
          Its links and tags are edited here like any others. It keeps what it was told and what it records on its disk, goes on while this
          site is away, and brings it here afterwards.
        </p>
        <p>
          Or it stands by for all of it: a second machine with the whole application over the same database. One machine leads, and when it
          is gone another one does, within seconds and never two at a time.
        </p>
      </section>
      <NodeCard
        v-for="{ node, status, code } in shown"
        :key="`${node.id} ${node.revision}`"
        :node="node"
        :status="status"
        :lead="live.status?.lead ?? null"
        :code="code"
        :has-door="door !== null || (live.status?.lead ?? null) !== null"
        :now="now"
        @changed="load"
      />
      <NewNode v-if="session.can('configure')" @made="load" />
      <NodeDoorForm v-if="nodes && !live.status?.lead" :key="JSON.stringify(door)" :door="door" @changed="load" />
    </div>
  </div>
</template>

<style scoped>
.stack {
  display: grid;
  gap: 14px;
}
.part {
  padding: 12px 16px;
}
p {
  margin: 6px 0;
  max-width: 100ch;
}
</style>
