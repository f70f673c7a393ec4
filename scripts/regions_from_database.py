"""Writes the database rows of crates/catalogue/data/regions.csv anew from Debian's wireless-regdb.

Usage: python3 scripts/regions_from_database.py VERSION

The file is /lib/firmware/regulatory.db-debian of the package wireless-regdb (ISC licence), which stays where it is: only the
decoded rules of some countries are kept. Rows from other sources (rules recalled from the regulations) stay as they are.
Format of the database, big-endian: magic, version; 4-byte entries {country, u16 pointer/4} up to pointer 0; collection {length,
number of rules, DFS region} and u16 rule pointers/4; rule {length, flags, u16 power in 0.01 dBm, u32 start, end, width in kHz}.
"""
import csv
import struct
import sys

COUNTRIES = ["US", "CA", "GB", "DE", "FR", "AU", "NZ", "JP", "IN", "BR", "ZA", "00"]
DFS_REGIONS = {0: "unset", 1: "FCC", 2: "ETSI", 3: "JP"}
DATABASE = "/lib/firmware/regulatory.db-debian"
TABLE = "crates/catalogue/data/regions.csv"


def rules(data, country):
    offset = 8
    while True:
        code, pointer = data[offset : offset + 2], struct.unpack(">H", data[offset + 2 : offset + 4])[0] * 4
        if pointer == 0:
            raise SystemExit(f"{country} is not in the database")
        if code.decode() == country:
            break
        offset += 4
    length, count, dfs_region = data[pointer : pointer + 3]
    at = pointer + (length + 1) // 2 * 2
    for index in range(count):
        rule = struct.unpack(">H", data[at + 2 * index : at + 2 * index + 2])[0] * 4
        flags = data[rule + 1]
        power, low, high, width = struct.unpack(">HIII", data[rule + 2 : rule + 16])
        yield flags, power / 100, low / 1000, high / 1000, width / 1000, DFS_REGIONS[dfs_region]


def main():
    version = sys.argv[1]
    data = open(DATABASE, "rb").read()
    assert data[:8] == struct.pack(">II", 0x52474442, 20), "not a regulatory database"
    with open(TABLE) as table:
        heading, *rows = list(csv.reader(table))
    kept = [row for row in rows if row[5] != "database"]
    source = f"Debian wireless-regdb {version} decoded"
    made = []
    for country in COUNTRIES:
        for flags, power, low, high, width, dfs_region in rules(data, country):
            if not 2300 < low < 7200:
                continue
            bit = lambda number: int(bool(flags & number))
            note = "OFDM not allowed" if flags & 1 else ""
            made.append([country, low, high, width, power, "database", "", bit(4), bit(2), bit(8), bit(16), dfs_region,
                         source, note])
    with open(TABLE, "w", newline="") as table:
        csv.writer(table, lineterminator="\n").writerows([heading, *made, *kept])


main()
