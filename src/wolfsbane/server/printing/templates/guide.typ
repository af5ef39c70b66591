// The marking guide: what earns what, with an example from the sheet's own numbers.
#import "house.typ": *

#let sheet = data.sheet
#show: house.with(
  "Marking guide: " + sheet.title, margin: (x: 13mm, top: 11mm, bottom: 12mm),
  footer: context foot(
    [Marking guide, rubric #sheet.rubric_version. Marks come from the calls as issued; nothing is solved again when a paper is marked.],
    text(size: 7.4pt)[page #counter(page).display()],
  ),
)

= Marking guide: #sheet.title
#small(sheet.class_name)

== One mistake costs one mark
Every number is marked against the apprentice's own numbers before it. A misread PT scale costs its own mark; superheat, verdict, fault and plan that follow from it are right. So for each line ask: _does this follow from the lines above it on this paper?_ Wolfsbane does the same.

== An example from this sheet
#for line in data.example { line; parbreak() }

== What earns what
#if data.weights != "" { data.weights; parbreak() }
#{
  set text(size: 8.8pt)
  listing(
    columns: (34fr, 66fr),
    table.header(column-head[What], column-head[Earns]),
    ..data.rubric.map(((what, earns)) => (strong(what), earns)).flatten(),
  )
}

== Typing a paper in
Type the code or scan the square. *All as key* fills the whole call; then type only what differs on the paper. L, N, H are low, normal, high; D, S, U are down, same, up. Leave blank what is blank. Two people can work on one pile: neither overwrites the other without being asked.

#block(breakable: false)[
  == Calls of this sheet
  #set text(size: 8.8pt)
  #listing(
    columns: (7fr, 38fr, 10fr, 10fr, 35fr),
    table.header(..("Call", "What", "Level", "Points", "Rules made for it").map(column-head)),
    ..data.calls.map(row => (
      str(row.position), row.title, str(row.level), str(row.points), row.rules,
    )).flatten(),
  )
]
