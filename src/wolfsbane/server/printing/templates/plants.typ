// Setup cards of the calls on a rig: what to set, how long to wait, limits, and how to undo it.
#import "house.typ": *

#let sheet = data.sheet
#show: house.with(
  "Rig setup cards: " + sheet.title, margin: (x: 13mm, top: 11mm, bottom: 12mm),
  footer: foot[For whoever sets up the rig. Manufacturer's instructions and local codes come first; only certified people open a system.],
)

#let sign-off(what) = [#what #v(9mm) #line(length: 100%, stroke: .6pt + ink)]

#for (index, card) in data.cards.enumerate() {
  if index > 0 { pagebreak() }
  head(
    "Rig setup card " + str(index + 1),
    [#sheet.title · call #card.position · #card.machine. Keep it away from the class.],
  )
  for row in card.rows {
    block(breakable: false, width: 100%, stroke: 1pt + ink, radius: 1.2mm, inset: (x: 4mm, y: 3mm), below: 5mm, {
      [*#row.fault* #small(row.size)]
      set text(size: 8.8pt)
      grid(
        columns: (18%, 1fr), stroke: (bottom: .4pt + hair), inset: (x: 1.4mm, y: 1.1mm),
        ..(
          ([Set], row.set),
          ([Settle], [#row.settle_min minutes of running before any reading]),
          ([Limits], row.limits),
          ([Undo], row.undo),
        ).map(((name, told)) => (strong(name), told)).flatten(),
      )
      caution(row.caution)
    })
  }
  if card.own.len() > 0 {
    [== On your rigs]
    for one in card.own { block(below: 1.6mm)[*#one.rig*: #one.ways.join("; ")] }
  }
  [== What the rig reads]
  small[Predicted for #card.weather. Write down what the rig actually reads and enter it: the class is marked against that.]
  {
    set text(size: 8.8pt)
    let rigs = card.own
    listing(
      columns: (1fr, ..(if rigs.len() > 0 { 16% } else { 22% },) * (rigs.len() + 1), 24%),
      align: (left + horizon, ..(right + horizon,) * (rigs.len() + 2)),
      table.header(
        column-head[Reading], column-head(if rigs.len() > 0 [Nameplate machine] else [Predicted]),
        ..rigs.map(one => column-head(one.rig.split(",").first())), column-head[Measured],
      ),
      ..card.readings.map(r => (
        [#r.label#if r.needed [ \*]], figure-text(r.text), ..r.own.map(t => figure-text(t)), blank(),
      )).flatten(),
    )
  }
  small[\* needed before the class can be marked.]
  v(5mm)
  grid(
    columns: (1fr, 1fr), column-gutter: 6mm,
    sign-off[Set by, time], sign-off[Undone and running normally by, time],
  )
}
