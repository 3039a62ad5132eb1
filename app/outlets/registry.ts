import type { Component } from 'vue'
import { outletFactsOf, type OutletKind } from '#core/outlets/registry'
import { opcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { Outlet, OutletDraft, OutletSettingsOf } from '#shared/outlets/outlet'
import OpcuaServerForm from '~/components/outlets/opcua/OpcuaServerForm.vue'
import OpcuaServerView from '~/components/outlets/opcua/OpcuaServerView.vue'

interface OutletFace<S> {
  /** Its settings; the model is these, a slot `head` takes name and switch, a slot `foot` what saves. */
  form: Component
  /** How it is, on its page; a slot takes the list of clients. */
  view: Component
  /** What somebody who opens the first one should know. */
  hint: string
  /** The settings of a new one beside those that are there. */
  blank(others: readonly Outlet[]): S
}

/** The face of every kind of outlet. A new one adds its entry here. */
const faces: { [K in OutletKind]: OutletFace<OutletSettingsOf<K>> } = {
  'opcua-server': {
    form: OpcuaServerForm,
    view: OpcuaServerView,
    hint: 'A new one listens on this machine’s loopback address only, without security, so nobody else can reach it, until you open a door to others.',
    blank: (others) => {
      const taken = new Set(others.flatMap(({ kind, settings }) => (kind === 'opcua-server' ? settings.doors.map(({ port }) => port) : [])))
      const port = [4840, 4841, 4842, 4843, 4844].find((candidate) => !taken.has(candidate)) ?? 4850
      return opcuaServerSettings.parse({ doors: [{ port }] })
    },
  },
}

/** Face and settings go together by the kind; TypeScript cannot follow that through a variable. */
export const outletFaceOf = (kind: OutletKind) => faces[kind] as unknown as OutletFace<OutletDraft['settings']>

/** A new outlet of a kind, named after it where it is the first. */
export const blankOutlet = (kind: OutletKind, others: readonly Outlet[]): OutletDraft => ({
  name: others.some((other) => other.kind === kind) ? '' : outletFactsOf(kind).title,
  kind,
  on: true,
  settings: outletFaceOf(kind).blank(others),
})
