import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { programPoints } from '#core/isotcp/program/points'
import { programTable } from '#core/isotcp/program/table'
import { namesText } from '#core/tags/valueNames'

/** Variables of a program, and where they lie. */

const shown = (text: string, more: Partial<Parameters<typeof programPoints>[1]> = {}) => {
  const { points, problems } = programPoints(text, { block: 10, rule: 'even', folder: '', ...more })
  return {
    points: points.map(({ path, address, type, count }) => `${path} ${address} ${type}${count === null ? '' : ` ×${count}`}`),
    problems,
  }
}

const converter = `
(* What the converter measures *)
TYPE
  Phase : STRUCT
    current : REAL;     // A, of one phase
    hot : BOOL;
  END_STRUCT;
  State : (standing, ramping, running);
END_TYPE
VAR_GLOBAL RETAIN
  running, fault : BOOL;
  mode : BYTE := 16#2;
  state : State := standing;
  frequency : REAL; (* Hz at the plug *)
  phases : ARRAY[1..2] OF Phase;
  alarms : ARRAY[0..9] OF BOOL;
  trend : ARRAY[1..3] OF INT := [1, 2, 3];
  ship : STRING[5] := 'Aurora; no';
  ready : BOOL;
  started : DATE_AND_TIME;
END_VAR
`

describe('declarations', () => {
  it('lie in the order in which they stand: bits fill bytes, words and wider begin at even ones', () => {
    expect(shown(converter)).toEqual({
      problems: [],
      points: [
        'running DB10.0.0 bool',
        'fault DB10.0.1 bool',
        'mode DB10.1 uint8',
        'state DB10.2 int16',
        'frequency DB10.4 float32',
        'phases/1/current DB10.8 float32',
        'phases/1/hot DB10.12.0 bool',
        'phases/2/current DB10.14 float32',
        'phases/2/hot DB10.18.0 bool',
        'alarms DB10.20.0 bool[] ×10',
        'trend DB10.22 int16[] ×3',
        'ship DB10.28 string',
        'ready DB10.36.0 bool',
        'started DB10.38 datetime',
      ],
    })
  })
  it('name the values of their enumerations, which are as wide as they say', () => {
    const text = `TYPE
      Mode : (off := 1, on, fault := 16#10, late := LATEST, later, back := -2) DINT := on;
      Colour : WORD (red := 2#101, green);
      Share : INT (0..100);
      Level : (low, high)
    END_TYPE
    VAR_GLOBAL a : Mode; b : BYTE; c : Colour; d : Share; e : (one, two); f : ARRAY[0..1] OF Level; END_VAR`
    const { points, problems } = programPoints(text, { block: 1, rule: 'even', folder: '' })
    expect(problems).toEqual([])
    expect(points.map(({ address, type, names }) => `${address} ${type} ${namesText(names)}`.trim())).toEqual([
      'DB1.0 int32 1 = off; 2 = on; 16 = fault; -2 = back',
      'DB1.4 uint8',
      'DB1.6 uint16 5 = red; 6 = green',
      'DB1.8 int16',
      'DB1.10 int16 0 = one; 1 = two',
      'DB1.12 int16[]',
    ])
    const [header, line] = programTable(points, 'FC-1').split(/\r?\n/)
    expect([header, line]).toEqual([
      'path,link,address,type,form,length,elements,names',
      'a,FC-1,DB1.0,int32,,,,1 = off; 2 = on; 16 = fault; -2 = back',
    ])
  })

  it('lie at multiples of their own size where the controller aligns so', () => {
    expect(shown(converter, { rule: 'natural' }).points.slice(0, 9)).toEqual([
      'running DB10.0.0 bool',
      'fault DB10.1.0 bool',
      'mode DB10.2 uint8',
      'state DB10.4 int16',
      'frequency DB10.8 float32',
      'phases/1/current DB10.12 float32',
      'phases/1/hot DB10.16.0 bool',
      'phases/2/current DB10.20 float32',
      'phases/2/hot DB10.24.0 bool',
    ])
  })
  it('have each its own comment, also where several stand on one line', () => {
    const { points } = programPoints(
      'VAR_GLOBAL (* not this *) a : INT; (* A *) b : BOOL; c : INT (* C *); d : INT; // D\n // nor this\n e : INT; END_VAR',
      {
        ...{ block: 1, rule: 'even', folder: '' },
      },
    )
    expect(points.map(({ path, description }) => path + description)).toEqual(['aA', 'b', 'cC', 'dD', 'e'])
  })
  it('bring comments, units of times, lengths and the folder of a program', () => {
    const { points } = programPoints(
      `PROGRAM Cooling
       VAR
         left : TIME; (* until it may stop *)
         name AT %MB10 : STRING[8];
         "set point" AT %MW4 : INT;
       END_VAR
       left := T#3s; IF left > T#0s THEN x := 1; END_IF
       END_PROGRAM`,
      { block: 3, rule: 'even', folder: 'plant' },
    )
    expect(points).toMatchObject([
      { path: 'plant/Cooling/name', address: 'M10', type: 'string', length: 8, form: 'counted' },
      { path: 'plant/Cooling/set point', address: 'M4', type: 'int16' },
      { path: 'plant/Cooling/left', address: 'DB3.0', type: 'int32', description: 'until it may stop, milliseconds' },
    ])
  })
  it('tell what cannot be read or placed, by line, and go on with the rest', () => {
    const { points, problems } = shown('VAR_GLOBAL\n a : INT;\n 7 : INT;\n b : Motor;\n c : ARRAY[0..N] OF INT;\n d : INT;\nEND_VAR')
    expect(points).toEqual(['a DB10.0 int16', 'd DB10.2 int16'])
    expect(problems.map(({ line }) => line)).toEqual([3, 4, 5])
    expect(problems[1]!.text).toContain('MOTOR, which the file does not declare')
  })
  it('that hold themselves, or never end, are told as that', () => {
    expect(shown('TYPE A : STRUCT x : A; END_STRUCT; END_TYPE VAR_GLOBAL a : A; END_VAR').problems[0]!.text).toContain('holds itself')
    expect(shown(`VAR_GLOBAL a : ${'ARRAY[0..1] OF '.repeat(40)} INT; END_VAR`).problems[0]!.text).toContain('deep')
    expect(shown('VAR_GLOBAL a : ARRAY[0..999999999] OF INT; END_VAR').problems[0]!.text).toContain('elements')
    expect(shown('VAR_GLOBAL a : STRUCT b : INT; ').points).toEqual(['a/b DB10.0 int16'])
  })
  it('are left out where no block is named, but for those with an address', () => {
    const found = programPoints('VAR_GLOBAL a : INT; b AT %Q0.1 : BOOL; END_VAR', { block: null, rule: 'even', folder: '' })
    expect(found).toMatchObject({ groups: [{ name: '', variables: 1, block: null }], points: [{ path: 'b', address: 'Q0.1' }] })
  })
  it('are read from anything without an end or an exception', () => {
    const parts = fc.constantFrom('TYPE', 'END_TYPE', 'VAR_GLOBAL', 'END_VAR', 'STRUCT', 'END_STRUCT', 'a', ':', ';', 'INT', 'ARRAY', '[', '0', '..', '3', ']', 'OF', '(', ')', ',', 'AT', '%M0', ':=', '(*', '*)', '"', '-') // prettier-ignore
    fc.assert(
      fc.property(fc.array(parts, { maxLength: 40 }), (words) => {
        programPoints(words.join(' '), { block: 1, rule: 'natural', folder: 'x' })
      }),
    )
  })
})

describe('tables', () => {
  it('of symbols bring each its own address', () => {
    const text = 'Name;Address;Data type;Comment\nMotor_on;%I0.0;Bool;runs\nSpeed;MW20;Int;\n"Left";T5;Timer;\nOdd;XY4;Int;\n'
    expect(shown(text)).toEqual({
      points: ['Motor_on I0.0 bool', 'Speed M20 int16'],
      problems: [
        { line: 4, text: expect.stringContaining('TIMER') as string },
        { line: 5, text: 'Odd lies at “XY4”, which is neither an offset nor an address.' },
      ],
    })
  })
  it('of a block bring offsets in it, in folders by dots', () => {
    const text =
      'name,type,offset,comment\nplug.seated,Bool,0.3,\nplug.turns,Int,2,\nship,String[20],4,who lies there\ncells,"Array[1..4] of Real",26,\n'
    expect(shown(text, { folder: 'berth/1' })).toEqual({
      points: [
        'berth/1/plug/seated DB10.0.3 bool',
        'berth/1/plug/turns DB10.2 int16',
        'berth/1/ship DB10.4 string',
        'berth/1/cells DB10.26 float32[] ×4',
      ],
      problems: [],
    })
  })
})

/** The same program as `converter`, as a project of PLCopen TC6 writes it. */
const project = (globals: string) => `<?xml version="1.0" encoding="utf-8"?>
<project xmlns="http://www.plcopen.org/xml/tc6_0201" xmlns:xhtml="http://www.w3.org/1999/xhtml">
  <types>
    <dataTypes>
      <dataType name="Phase"><baseType><struct>
        <variable name="current"><type><REAL/></type></variable>
        <variable name="hot"><type><BOOL/></type></variable>
      </struct></baseType></dataType>
      <dataType name="State"><baseType><enum><values><value name="standing"/><value name="ramping"/><value name="running"/></values></enum></baseType></dataType>
    </dataTypes>
    <pous/>
  </types>
  <instances><configurations><configuration name="c"><resource name="r">${globals}</resource></configuration></configurations></instances>
</project>`

const globals = `<globalVars name="">
  <variable name="running"><type><BOOL/></type></variable>
  <variable name="fault"><type><BOOL/></type></variable>
  <variable name="mode"><type><BYTE/></type><initialValue><simpleValue value="16#2"/></initialValue></variable>
  <variable name="state"><type><derived name="State"/></type></variable>
  <variable name="frequency"><type><REAL/></type><documentation><xhtml:p>Hz at
     the <xhtml:b>plug</xhtml:b></xhtml:p></documentation></variable>
  <variable name="phases"><type><array><dimension lower="1" upper="2"/><baseType><derived name="Phase"/></baseType></array></type></variable>
  <variable name="alarms"><type><array><dimension lower="0" upper="9"/><baseType><BOOL/></baseType></array></type></variable>
  <variable name="trend"><type><array><dimension lower="1" upper="3"/><baseType><INT/></baseType></array></type></variable>
  <variable name="ship"><type><string length="5"/></type></variable>
  <variable name="ready"><type><BOOL/></type></variable>
  <variable name="started"><type><derived name="DATE_AND_TIME"/></type></variable>
</globalVars>`

const statesOfConverter = ['standing', 'ramping', 'running'].map((name, value) => ({ value, name }))

describe('a project as PLCopen TC6 XML', () => {
  it('says the same as its declarations', () => {
    expect(shown(project(globals))).toEqual(shown(converter))
    const { points } = programPoints(project(globals), { block: 10, rule: 'even', folder: 'fc1' })
    expect(points.find(({ path }) => path === 'fc1/frequency')!.description).toBe('Hz at the plug')
    expect(points.find(({ path }) => path === 'fc1/state')!.names).toEqual(statesOfConverter)
  })

  it('lies group by group in blocks of their own, and keeps the addresses that it names', () => {
    const two = `<globalVars name="measured"><variable name="a"><type><INT/></type></variable></globalVars>
      <globalVars name="asked"><variable name="a"><type><REAL/></type></variable><variable name="q" address="%Q0.1"><type><BOOL/></type></variable></globalVars>`
    expect(shown(project(two), { block: null, blocks: { asked: 20 } })).toEqual({
      problems: [],
      points: ['asked/q Q0.1 bool', 'asked/a DB20.0 float32'],
    })
    const { groups } = programPoints(project(two), { block: 10, blocks: { asked: 20 }, rule: 'even', folder: '' })
    expect(groups).toEqual([
      { name: 'measured', variables: 1, bytes: 2, block: 10 },
      { name: 'asked', variables: 1, bytes: 4, block: 20 },
    ])
  })

  it('tells by line what it cannot use, and takes the rest', () => {
    const odd = `<globalVars name="g">
      <variable name="size"><type><array><dimension lower="0" upper="LAST"/><baseType><INT/></baseType></array></type></variable>
      <variable name="kind"><type><derived name="Unheard"/></type></variable>
      <variable name="fine"><type><INT/></type></variable></globalVars>`
    const { points, problems } = shown(project(odd))
    expect(points).toEqual(['g/fine DB10.0 int16'])
    expect(problems).toHaveLength(2)
    expect(problems[0]!.text).toMatch(/no bounds that are whole numbers/)
    expect(problems[0]!.line).toBe(14)
  })

  it('is refused where it is cut off, none of its kind, or means to swell', () => {
    expect(shown(project(globals).slice(0, 900)).problems[0]!.text).toMatch(/^The document cannot be read/)
    expect(shown('<list><a/></list>').problems[0]!.text).toMatch(/A project stands at the root/)
    const bomb = '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><project>&b;</project>'
    expect(shown(bomb).problems[0]!.text).toMatch(/document type/)
    const file = '<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><project>&a;</project>'
    expect(shown(file).points).toEqual([])
    expect(shown(`<project>${'<a>'.repeat(200)}`).problems[0]!.text).toMatch(/deep in each other/)
  })
})
