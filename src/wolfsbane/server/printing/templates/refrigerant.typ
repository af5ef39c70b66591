// The refrigerant log of some days: every move with its three weights, balances, what is in each cylinder.
#import "house.typ": *

#show: house.with(
  "Refrigerant log", margin: (x: 12mm, top: 11mm, bottom: 14mm), landscape: true, footer: foot[#data.no_advice],
)
#let weight(text) = figure-text(text)

#head("Refrigerant log", [#data.school · #data.days])

#if data.moves.len() == 0 [No move was written down.] else {
  set text(size: 8pt)
  listing(
    columns: (25mm, auto, auto, 18mm, 22mm, 22mm, 20mm, 30mm, 1fr),
    align: (left, left, left, left, right, right, right, left, left).map(a => a + horizon),
    table.header(
      column-head[Time], column-head[Cylinder], column-head[Move], column-head[Refrigerant], column-head[Log],
      column-head[Cylinder weighed], column-head[Scale], column-head[Who], column-head[Why, differences],
    ),
    ..data.moves.map(m => (
      [#m.time], [#m.cylinder], [#m.text], [#m.refrigerant], weight(m.log), weight(m.weighed),
      weight(if m.scale == "" { "–" } else { m.scale }), [#m.person],
      [#m.why#for d in m.differences [ *#d.text.*#if m.explained != "" [ #m.explained] else [ Not explained.]]],
    )).flatten(),
  )
}

#for part in data.balances {
  if part.rows.len() > 0 [
    == By #part.title
    #set text(size: 8pt)
    #listing(
      columns: (1fr, ..(26mm,) * data.kinds.len(), 30mm),
      align: (left + horizon, ..(right + horizon,) * (data.kinds.len() + 1)),
      table.header(
        column-head[#part.title], ..data.kinds.map(k => column-head[#k]), column-head[charged less recovered],
      ),
      ..part.rows.map(r => ([#r.name], ..data.kinds.map(k => weight(r.at(k))), weight(r.net))).flatten(),
    )
  ]
}

== In the cylinders now
#set text(size: 8pt)
#listing(
  columns: (1fr, 24mm, 24mm, 30mm, 30mm, 30mm, 1fr),
  align: (left, left, left, right, right, right, left).map(a => a + horizon),
  table.header(
    column-head[Cylinder], column-head[Kind], column-head[Refrigerant], column-head[Net], column-head[Gross],
    column-head[At most], column-head[Owner, test date],
  ),
  ..data.cylinders.map(c => (
    [#c.name], [#c.kind], [#if c.refrigerant == "" [empty] else [#c.refrigerant]], weight(c.net), weight(c.gross),
    weight(if c.limit == "" { "–" } else { c.limit }), [#c.owner#if c.retest_on != "" [ · #c.retest_on]],
  )).flatten(),
)
