import { movedPath } from '#core/tags/path'
import type { Editor } from '#db/editor'
import { thingsOf } from '#db/rows'
import { allClasses, allEquipment } from './model'

/** Whatever names a class names it as it is called now. */
export const renameClass = async (editor: Editor, from: string, to: string) => {
  const classes = (await allClasses(editor.db)).flatMap(({ id, parent, properties }) => {
    const gathered = properties.map((property) =>
      property.made.kind === 'gather' && property.made.class === from ? { ...property, made: { ...property.made, class: to } } : property,
    )
    const isOther = parent === from || gathered.some((property, i) => property !== properties[i])
    return isOther ? [{ id, parent: parent === from ? to : parent, properties: gathered }] : []
  })
  await editor.updateUnseen('equipmentClass', classes)
  const equipment = (await allEquipment(editor.db)).filter((one) => one.class === from).map(({ id }) => ({ id, class: to }))
  await editor.updateUnseen('equipment', equipment)
  const displays = thingsOf('display', await editor.db.selectFrom('display').selectAll().where('class', '=', from).execute())
  await editor.updateUnseen(
    'display',
    displays.map(({ id }) => ({ id, class: to })),
  )
}

/** Whatever is part of a piece of equipment goes where it goes; relations to any of it follow. */
export const moveEquipment = async (editor: Editor, id: number, from: string, to: string) => {
  const moved = (await allEquipment(editor.db)).flatMap((one) => {
    const path = one.id === id ? one.path : movedPath(one.path, from, to)
    const relations = one.relations.map((relation) => ({ ...relation, to: movedPath(relation.to, from, to) }))
    const isOther = path !== one.path || relations.some((relation, i) => relation.to !== one.relations[i]!.to)
    return isOther ? [{ id: one.id, path, relations }] : []
  })
  await editor.updateUnseen('equipment', moved)
  for (const { id: link, equipment } of await editor.db.selectFrom('wall_link').select(['id', 'equipment']).execute()) {
    const now = movedPath(equipment, from, to)
    if (now !== equipment) await editor.db.updateTable('wall_link').set({ equipment: now }).where('id', '=', link).execute()
  }
}
