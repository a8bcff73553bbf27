import { expect, test } from 'vitest'
import { vcd } from '../src/schematic/gates'

const gates = [
  { name: 'A high', spans: [[0, 4e-6] as [number, number], [9e-6, 1e-5] as [number, number]] },
  { name: 'A low', spans: [[4.4e-6, 8.6e-6] as [number, number]] },
]

test('commands as a value change dump: a bit a gate, every change at its picosecond', () => {
  expect(vcd({ gates, seconds: 1e-5 }, 'H-bridge').split('\n')).toEqual([
    '$timescale 1 ps $end',
    '$scope module H_bridge $end',
    '$var wire 1 ! A_high $end',
    '$var wire 1 " A_low $end',
    '$upscope $end',
    '$enddefinitions $end',
    '#0',
    '1!',
    '0"',
    '#4000000',
    '0!',
    '#4400000',
    '1"',
    '#8600000',
    '0"',
    '#9000000',
    '1!',
    '#10000000',
    '',
  ])
})

test('what is on to the end is not turned off by it', () => {
  const one = vcd({ gates: [{ name: 'relay', spans: [[0, 2]] }], seconds: 2 }, 'x')
  expect(one).not.toContain('0!')
})
