// The station rotation: who is at which rig in which round.
#import "house.typ": *

#let sheet = data.sheet
#let plan = data.table
#show: house.with("Rotation: " + sheet.title, margin: (x: 13mm, top: 11mm, bottom: 12mm), landscape: true)
#set table(stroke: .5pt + edge, inset: (x: 2mm, y: 2.2mm))

= Stations: #sheet.title
#small[#sheet.class_name · #plan.minutes minutes in all, five of them for each change]

#v(2mm)
#table(
  columns: (16mm, 26mm, ..(1fr,) * plan.columns.len()),
  table.header(
    [Round], [Minutes],
    ..plan.columns.map(c => if c.rig == none [*Desk* \ #small[the rest of the sheet]] else [*Rig #c.rig* \ #small(c.title)]),
  ),
  ..plan.rounds.map(round => (
    figure-text(str(round.number)), figure-text[#round.from_min to #round.to_min],
    ..round.cells.map(cell => if cell.len() == 0 [–] else [Group #cell.map(str).join(", ")]),
  )).flatten(),
)

== Groups
#grid(
  columns: (1fr,) * calc.max(plan.groups.len(), 1), stroke: .5pt + edge, inset: (x: 2mm, y: 2.2mm),
  ..plan.groups.map(g => [*Group #g.number* \ #g.names.join(", ")]),
)

#caution(above: 6mm)[Every rig has one person who may shut it down. Safety glasses and gloves at every station; hands off fans and discharge lines.]
