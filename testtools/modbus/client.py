"""A Modbus TCP client that shares no code with Tin Gate: Debian's python3-pymodbus reads and writes the stand-in.

Usage: client.py HOST PORT, then one request a line on standard input:
    read REGISTER COUNT
    write REGISTER VALUE [VALUE]     two values: one write of two registers
    identify                         basic device identification, function 43/14
Each answer is a line: the registers, "ok", or "exception CODE".
"""

import sys

from pymodbus.client import ModbusTcpClient
from pymodbus.mei_message import ReadDeviceInformationRequest


def answer(result, wrote):
    if result.isError():
        return "exception %d" % result.exception_code
    return "ok" if wrote else " ".join(str(r) for r in result.registers)


def main():
    client = ModbusTcpClient(sys.argv[1], port=int(sys.argv[2]))
    if not client.connect():
        sys.exit("no connection")
    for line in sys.stdin:
        if line.strip() == "identify":
            told = client.execute(ReadDeviceInformationRequest(read_code=1, object_id=0, slave=1))
            print("exception %d" % told.exception_code if told.isError() else "|".join(v.decode() for _, v in sorted(told.information.items())))
            continue
        what, register, *rest = line.split()
        numbers = [int(r, 0) for r in rest]
        if what == "read":
            print(answer(client.read_holding_registers(int(register), numbers[0], slave=1), False))
        elif len(numbers) == 1:
            print(answer(client.write_register(int(register), numbers[0], slave=1), True))
        else:
            print(answer(client.write_registers(int(register), numbers, slave=1), True))
    client.close()


main()
