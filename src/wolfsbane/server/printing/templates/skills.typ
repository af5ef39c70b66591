// What somebody can do at a rig: every skill with its level, and what showed it.
#import "house.typ": *

#show: house.with("Skills record", footer: foot[#training])

#head("Skills record", [#data.name · #data.school])

#let mark(level, wanted) = if level == wanted { tick } else { [] }

#listing(
  columns: (1fr, 15mm, 15mm, 15mm, 15mm, 70mm),
  align: (left, center, center, center, right, left).map(a => a + horizon),
  table.header(
    column-head[Skill], column-head[shown], column-head[with help], column-head[alone], column-head[times],
    column-head[Last seen],
  ),
  ..data.rows.map(r => (
    [#r.name], mark(r.level, "shown"), mark(r.level, "helped"), mark(r.level, "alone"), figure-text(str(r.times)),
    if r.last == none { small[–] } else { small[#r.last.day, #r.last.rig: #r.last.evidence] },
  )).flatten(),
)

#v(10mm)
#grid(
  columns: (1fr, 1fr), column-gutter: 12mm,
  [#line(length: 100%, stroke: .6pt + ink) #small[Instructor, date]],
  [#line(length: 100%, stroke: .6pt + ink) #small[Student, date]],
)
