"""A client of the C library for Modbus that Debian ships: asks what its arguments say, and prints what came as JSON."""
import ctypes
import json
import sys

way, place, parameter, unit, steps = sys.argv[1], sys.argv[2], int(sys.argv[3]), int(sys.argv[4]), json.loads(sys.argv[5])
library = ctypes.CDLL('libmodbus.so.5', use_errno=True)
for maker in (library.modbus_new_tcp, library.modbus_new_rtu):
    maker.restype = ctypes.c_void_p
library.modbus_strerror.restype = ctypes.c_char_p
context = ctypes.c_void_p(
    library.modbus_new_tcp(place.encode(), parameter)
    if way == 'tcp'
    else library.modbus_new_rtu(place.encode(), parameter, ctypes.c_char(b'E'), 8, 1)
)
library.modbus_set_slave(context, unit)
library.modbus_set_response_timeout(context, 2, 0)


def checked(result):
    return result if result >= 0 else library.modbus_strerror(ctypes.get_errno()).decode()


def words(count):
    return (ctypes.c_uint16 * count)()


def answer(step):
    what, at = step['what'], step['at']
    if what in ('holding', 'input'):
        into = words(step['count'])
        ask = library.modbus_read_registers if what == 'holding' else library.modbus_read_input_registers
        came = checked(ask(context, at, step['count'], into))
        return list(into) if isinstance(came, int) else came
    if what in ('coils', 'discrete'):
        into = (ctypes.c_uint8 * step['count'])()
        ask = library.modbus_read_bits if what == 'coils' else library.modbus_read_input_bits
        came = checked(ask(context, at, step['count'], into))
        return list(into) if isinstance(came, int) else came
    if what == 'write':
        values = (ctypes.c_uint16 * len(step['values']))(*step['values'])
        return checked(library.modbus_write_registers(context, at, len(step['values']), values))
    if what == 'switch':
        return checked(library.modbus_write_bit(context, at, int(step['on'])))
    return checked(library.modbus_mask_write_register(context, at, step['and'], step['or']))


connected = checked(library.modbus_connect(context))
print(json.dumps([answer(step) for step in steps] if connected == 0 else connected))
library.modbus_close(context)
library.modbus_free(context)
