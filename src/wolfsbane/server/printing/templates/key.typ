// The instructor's key, paper by paper, with the readings after the right repair.
#import "house.typ": *

#let sheet = data.sheet
#show: house.with(
  "Key: " + sheet.title, margin: (x: 13mm, top: 11mm, bottom: 12mm),
)
#let made-by = [Key for the instructor. Solver #sheet.solver_version, rubric #sheet.rubric_version, tables #sheet.table_hash.slice(0, 12), seed #str(sheet.seed)]

#let entry(body) = block(
  breakable: false, width: 100%, stroke: .6pt + edge, radius: 1.2mm, inset: (x: 2.6mm, y: 2.2mm), below: 3mm, body,
)
#let named(n, name) = text(weight: 700, size: 11pt)[#n · #name]

#let of-drill(call, n) = entry({
  named(n, call.title)
  parbreak()
  call.rows.map(row => box[*#row.no* #row.answer #row.unit]).join(h(5mm))
  for reason in call.reasons { parbreak(); small(reason) }
})

#let of-situation(call, n) = entry({
  [#named(n, call.title) #h(1mm) #small[#call.machine · difficulty #call.level]]
  set text(size: 8.6pt)
  table(
    columns: (8mm, 1fr, auto, auto), inset: (x: 1.4mm, y: .95mm), align: (left, left, right, left),
    stroke: (bottom: .3pt + hair),
    ..call.rows.map(row => (
      strong(str(row.no)), row.text, figure-text(row.answer + " " + row.unit), if row.said != "" { row.said } else { small(figure-text(row.sure)) },
    )).flatten(),
  )
  for line in call.told { small(line); parbreak() }
  caution(call.hazard)
})

#let figures(call) = {
  set text(size: 8.6pt)
  let heads = ("Figure", if call.rig { "Predicted" } else { "As printed" }, "Target", "Is")
  if call.two_repairs { heads.push("After the first repair") }
  heads.push("After the repair")
  let sides = (left, right, right, left, ..(right,) * (heads.len() - 4))
  table(
    columns: (32fr, 16fr, 20fr, 14fr, ..(20fr,) * (heads.len() - 4)), inset: (x: 1.4mm, y: .95mm),
    align: (x, y) => sides.at(x) + horizon,
    stroke: (x, y) => if y == 0 { (bottom: .4pt + edge) },
    table.header(..heads.map(column-head)),
    ..call.rows.map(row => (
      row.label, figure-text(row.now), figure-text(row.band), row.verdict,
      ..if call.two_repairs { (figure-text(row.between),) } else { () },
      figure-text(row.after),
    )).flatten(),
  )
}

#let of-call(call, n) = entry({
  grid(
    columns: (1fr, auto), column-gutter: 4mm, align: (left, right),
    [#named(n, call.fault) #h(1mm) #small[#call.machine#if call.severity != "" [ · #call.severity]]],
    figure-text(call.letters),
  )
  if call.predicted [#small[*Predicted.* This call is on a rig: it is marked against what the rig actually read.]]
  figures(call)
  call.told.map(row => [*#row.name:* #row.text.]).join(" ")
  parbreak()
  if call.repair.len() > 0 { figure-text(call.repair.join(" · ")); parbreak() }
  if call.plan != "" [*Plan:* #call.plan. #parbreak()]
  if call.after_off.len() > 0 {
    small[*Off target even after the repair:* #call.after_off.join(", "). That is this machine in this weather; the rest stands on target.]
    parbreak()
  }
  for wrong in call.wrong { small[#cross #wrong]; parbreak() }
  for slip in call.slips { small[*#slip.name:* #slip.text]; parbreak() }
  caution(call.hazard)
})

#for (index, paper) in data.papers.enumerate() {
  let end = label("end-" + str(index))
  set page(footer: context foot(
    made-by, text(size: 7.4pt)[#paper.name · page #counter(page).display() of #counter(page).at(end).first()],
  ))
  counter(page).update(1)
  head("Key: " + paper.name, [#sheet.title · #sheet.class_name], right-side: code(paper.code))
  for (at, call) in paper.calls.enumerate() {
    if call.kind == "drill" { of-drill(call, at + 1) } else if call.kind == "situation" { of-situation(call, at + 1) } else { of-call(call, at + 1) }
  }
  [#metadata(none)#end]
}
