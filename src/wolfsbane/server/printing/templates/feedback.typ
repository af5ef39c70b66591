// Feedback on marked papers: own answer, expected answer, points and why, line by line.
#import "house.typ": *

#let sheet = data.sheet
#show: house.with("Feedback: " + sheet.title, margin: (x: 12mm, top: 10mm, bottom: 12mm))

#let line-of(paper, row) = {
  let lost = row.earned < row.points
  let own = if row.own == "" { "–" } else { row.own }
  let sign = if row.excluded { if row.right == true { small[#tick] } else { small[#cross] } } else if not lost { tick } else if row.earned > 0 [½] else { cross }
  let cells = (
    row.text, own,
    if lost or row.differs or (row.excluded and row.right != true) { row.expected } else { small(say(paper, "as yours")) },
    if row.excluded [#sign #small(say(paper, "not counted"))] else [#sign #figure-text[#row.earned/#row.points]],
    if lost or row.again != "" or row.differs [#row.why #emph(row.again)] else [],
  )
  if lost { cells.map(cell => strong(cell)) } else { cells }
}

#let of-call(paper, call) = {
  [== #say(paper, "Call") #call.position · #call.title · #call.earned #say(paper, "of") #call.possible]
  set text(size: 8.2pt)
  set par(leading: .42em)
  if call.shown.len() > 0 and call.shown.len() <= 24 {
    block(below: 1.6mm, small[#call.shown.map(one => one.label + " " + one.text).join(" · ")])
  }
  table(
    columns: (27fr, 18fr, 18fr, 10fr, 36fr), inset: (x: 1.3mm, y: .85mm), stroke: (bottom: .4pt + hair),
    align: (left + top, left + top, left + top, right + top, left + top),
    table.header(..(
      say(paper, "Step"), say(paper, "You"), say(paper, "Expected"), say(paper, "Points"), say(paper, "Why, and what to review"),
    ).map(column-head)),
    ..call.steps.map(step => step.rows.map(row => line-of(paper, row))).flatten(),
  )
  if call.hazard != "" { caution(call.hazard) }
}

#for (index, paper) in data.papers.enumerate() {
  let end = label("end-" + str(index))
  set page(footer: context align(right, text(size: 7.4pt)[#paper.name · #say(paper, "page") #counter(page).display() #say(paper, "of") #counter(page).at(end).first()]))
  counter(page).update(1)
  head(paper.name, [#sheet.title · #sheet.class_name], right-side: code[#paper.earned/#paper.possible])
  set text(lang: paper.at("lang", default: "en"))
  for call in paper.calls { of-call(paper, call) }
  if paper.next != none { block(above: 4mm)[*#say(paper, "Next:")* #paper.next.reason #say(paper, "Level") #paper.next.level.] }
  [#metadata(none)#end]
}
