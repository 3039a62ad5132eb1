import { z } from 'zod'
import { idField, lineField, savedShape } from '#core/contracts/fields'
import { cataloguedDescription } from '#core/iolink/description/catalogued'
import { descriptionsLoaded, listedDescription } from '../sensors'
import { listQuery, listWhole, pageOf } from './lists'
import { fileBody, operation } from './operation'
import { removed } from './removed'

const group = 'Device descriptions'

export const listDescriptions = operation('GET /device-descriptions', {
  group,
  needs: 'look',
  does: 'The descriptions of smart sensors that are loaded.',
  query: listQuery(['name', 'vendorName', 'vendorId', 'deviceId', 'id', 'revision'], listWhole),
  answer: pageOf(listedDescription),
})

export const loadDescriptions = operation('POST /device-descriptions', {
  group,
  needs: 'configure',
  does: 'Loads descriptions of devices: an IODD file (XML), or a zip archive of such files. One of a device that is there already takes its place.',
  query: {
    name: lineField('A name', 240).default('description.xml').describe('The file’s name.'),
    language: lineField('A language', 20).default('en').describe('In which texts are told, where the file has it.'),
  },
  body: fileBody,
  size: 'file',
  answer: descriptionsLoaded,
  faults: ['iolink.description', 'worker.away', 'entry.taken'],
})

export const showDescription = operation('GET /device-descriptions/{id}', {
  group,
  needs: 'look',
  does: 'A description with its document.',
  answer: cataloguedDescription.extend(savedShape),
})

export const changeDescription = operation('PUT /device-descriptions/{id}', {
  group,
  needs: 'configure',
  does: 'Tells the texts of a description in another of its languages. Tags keep their names.',
  body: z.object({ revision: idField('A revision'), language: lineField('A language', 20) }),
  example: { revision: 4, language: 'de' },
  answer: listedDescription,
  faults: ['entry.edited', 'iolink.description', 'worker.away'],
})

export const removeDescription = operation('DELETE /device-descriptions/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a description. Tags that were taken by it stay.',
  answer: removed,
})
