#!/usr/bin/env python3
"""Spreadsheets as other programs write them: crates/web/tests/fixtures/. Needs openpyxl and odfpy.

Written with openpyxl 3.1.5 and odfpy 1.4.1.
"""
import pathlib

import odf.opendocument
import openpyxl
from odf.office import Annotation
from odf.table import CoveredTableCell, Table, TableCell, TableColumn, TableRow
from odf.text import LineBreak, P, S, Span

OUT = pathlib.Path(__file__).resolve().parents[2] / "crates/web/tests/fixtures"

# Rows as they are read: numbers short, an empty cell empty, the first column of the sheet left out because it is.
book = openpyxl.Workbook()
sheet = book.active
sheet.title = "Läufe"
for row in [["L (m)", "t (s)", "ok"], [0.1, 1.25, True], [0.1 + 0.2, None, False], [1e-7, "=B3*2", "späte & frühe"]]:
    sheet.append([None, *row])
sheet.insert_rows(1, 2)
sheet["E6"] = "beside\tthe table"
book.create_sheet("Second")["A1"] = "not read"
book.save(OUT / "openpyxl.xlsx")

document = odf.opendocument.OpenDocumentSpreadsheet()
table = Table(name="Läufe")
table.addElement(TableColumn(numbercolumnsrepeated=16384))
table.addElement(TableRow(numberrowsrepeated=2))


def words(*parts):
    cell = TableCell(valuetype="string")
    paragraph = P()
    for part in parts:
        paragraph.addText(part) if isinstance(part, str) else paragraph.addElement(part)
    cell.addElement(paragraph)
    return cell


def value(kind, number, shown):
    cell = TableCell(valuetype=kind, value=number)
    cell.addElement(P(text=shown))
    return cell


def row(*cells, **repeated):
    made = TableRow(**repeated)
    for cell in cells:
        made.addElement(cell)
    table.addElement(made)


noted = words("t", S(), "(s)")
note = Annotation()
note.addElement(P(text="a note that is not part of the cell"))
noted.addElement(note)
row(TableCell(), words("L (m)"), noted, words("share"))
row(TableCell(), value("float", 0.1, "0,10"), value("float", 1.25, "1,25"), value("percentage", 0.5, "50 %"))
row(TableCell(), value("float", 0.30000000000000004, "0,3"), TableCell(), value("currency", 12, "12 Mark"), numberrowsrepeated=2)
row(TableCell(), words(Span(text="sp"), "ä", LineBreak(), "te"), CoveredTableCell(numbercolumnsrepeated=3))
row(TableCell(numbercolumnsrepeated=16384), numberrowsrepeated=1048569)
document.spreadsheet.addElement(table)
document.save(OUT / "odfpy.ods")
