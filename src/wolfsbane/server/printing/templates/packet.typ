// The class packet: for each call of each paper a page to diagnose and one to correct; drills on pages of their own.
#import "house.typ": *

#let sheet = data.sheet
#show: house.with(sheet.title)

#let page-head(paper, part, n, first: false) = head(
  paper.name, bookmarked: first and n == 1,
  [#sheet.title · #sheet.class_name · #say(paper, part) #n #say(paper, "of") #paper.calls.len()#if paper.attempt > 1 [ · #say(paper, "attempt") #paper.attempt]],
  right-side: {
    small(say(paper, "sheet code"))
    h(1.2mm)
    code(paper.code)
    h(3mm)
    box(width: 14mm, height: 14mm, image(bytes(paper.qr), format: "svg", width: 14mm, alt: "Code " + paper.code))
  },
)

// Rows of a key letter and its text. Each is a paragraph: a grid would lay every text out twice.
#let choice-rows(rows, columns, size: size.choice, key: size.key, gap: 1.5mm) = {
  set text(size: size)
  set par(leading: .42em, spacing: gap, hanging-indent: key)
  let one(row) = par[#box(width: key, text(font: "B612", weight: 700, fill: accent, row.key))#row.text]
  if columns == 1 { rows.map(one).join() } else {
    grid(columns: (1fr,) * columns, row-gutter: gap, column-gutter: 2mm, ..rows.map(one))
  }
}

#let to-work-out(call) = {
  [== #say(call, "Work out")]
  set text(size: size.cell)
  set par(leading: .42em)
  ruled(
    columns: (8mm, 1fr, 25mm, if large { 14mm } else { 9mm }), inset: (x: 1.4mm, y: 1.1mm),
    align: (left + horizon, left + horizon, right + horizon, left + horizon),
    ..call.numbers.map(q => (numbered(q.no), q.text, blank(), small(figure-text(q.unit)))).flatten(),
  )
  small[#say(call, "Superheat: the line is warmer than saturation. Subcooling: the line is cooler than saturation.") #if call.gauges != "pipes" { say(call, "PT scales are corrected for altitude.") }]
}

#let to-judge(call) = if call.verdicts.len() > 0 {
  [== #say(call, "Against the target (circle one)")]
  set text(size: size.cell)
  ruled(
    columns: (8mm, 1fr, auto), inset: (x: 1.4mm, y: 1.1mm), align: left + horizon,
    ..call.verdicts.map(q => (
      numbered(q.no),
      [#q.text#if q.band != "" [ #text(size: if large { 11pt } else { 7.6pt }, fill: soft, box(q.band))]],
      pills(call.verdict_words),
    )).flatten(),
  )
}

#let to-choose(call) = for asked in call.choices {
  block(above: 3mm, below: 1.6mm, width: 100%, grid(
    columns: (1fr, auto), align: horizon,
    [== #asked.no · #asked.title],
    blank(width: if asked.wide { 22mm } else { 9mm }, height: if large { 9mm } else { 5.6mm }),
  ))
  choice-rows(asked.rows, asked.columns)
}

#let pressures(call) = if call.gauges == "dials" {
  call.dials.map(d => dial(d, if call.beside.len() > 0 and not large { 52mm } else { size.dial }))
} else if call.gauges == "pipes" {
  (framed[
    == #say(call, "No gauges on this one")
    #say(call, "A critically charged system stays closed. Take saturation from the two lines where the refrigerant is sure to be boiling and condensing: the evaporator inlet and the condenser return bend.")

    #small(say(call, "Not in mild weather, and never at the condenser inlet: that carries superheated gas."))
  ],)
} else {
  (call.digital.map(row => block(
    width: 100%, stroke: 1pt + ink, radius: 2mm, inset: 3mm, below: 2mm, align(center, {
      small(upper(row.name))
      linebreak()
      text(font: "B612", weight: 700, size: 20pt, fill: side-colors.at(row.side), row.text)
    }),
  )).join(),)
}

#let readings(call) = {
  [== #say(call, "Stabilized readings")]
  if call.beside.len() > 0 {
    table(
      columns: (1fr, auto, auto), inset: (x: .6mm, y: 1.1mm), align: (left, right, right),
      stroke: (bottom: .4pt + hair),
      table.header(column-head(say(call, "Reading")), ..call.beside.map(head => column-head[#head])),
      ..call.shown.map(row => (small(row.label), strong-figure(row.text), row.beside)).flatten(),
    )
  } else {
    table(
      columns: (1fr, auto), inset: (x: .6mm, y: 1.4mm), align: (left, right), stroke: (bottom: .4pt + hair),
      table.header(column-head(say(call, "Reading")), column-head(say(call, "Value"))),
      ..call.shown.map(row => (small(row.label), strong-figure(row.text))).flatten(),
    )
  }
}

#let on-rig(call, rig) = block(below: 3mm, framed({
  [== #say(call, "On the rig: read it yourself, after {n} minutes of running").replace("{n}", str(rig.settle_min))]
  set text(size: size.cell)
  ruled(
    columns: (1fr,) * 4, inset: (x: 1.4mm, y: 1.2mm),
    ..rig.measured.map(q => [#numbered(q.no) #q.text \ #v(.4mm) #blank() #small(q.unit)]),
  )
  caution(say(call, "Safety glasses and gloves. Stay within the rig's limits: if a gauge passes the mark your instructor gave, shut it down and say so."))
}))

#let diagnose(paper, call, n) = {
  page-head(paper, "call", n, first: true)
  beside(56, 44, 5mm,
    {
      [== #say(call, "Complaint")]
      call.story
      [== #say(call, "Visual inspection")]
      if call.looks.len() > 5 { call.looks.join(" · ") } else { list(..call.looks) }
      if call.sealed.len() > 0 {
        small[*#say(call, "You may ask for:")* #call.sealed.join(", "). #say(call, "Ask for the sealed slip; say first what you expect.")]
        parbreak()
      }
      if call.chart { small(say(call, "A pressure-temperature chart comes with this call.")) }
    },
    framed({
      [== #say(call, "Nameplate"): #call.machine]
      set text(size: size.plate)
      grid(
        columns: (1fr, auto), inset: (x: 1mm, y: .8mm), align: (left, right),
        ..call.plate.map(row => (row.label, strong-figure(row.text))).flatten(),
      )
    }),
  )
  v(1mm)
  if call.rig != none {
    on-rig(call, call.rig)
  } else {
    let drawn = pressures(call)
    if large {
      if drawn.len() == 2 { grid(columns: (1fr, 1fr), ..drawn) } else { box(width: 90mm, drawn.first()) }
      readings(call)
    } else {
      let widths = if drawn.len() < 2 { (60mm, 1fr) } else if call.beside.len() > 0 { (52mm, 53mm, 1fr) } else { (64mm, 66mm, 1fr) }
      grid(columns: widths, column-gutter: (3mm, 5mm), ..drawn, readings(call))
    }
  }
  if large {
    pagebreak()
    page-head(paper, "call", n)
  }
  beside(55, 45, 5mm,
    {
      to-work-out(call)
      to-judge(call)
      caution(above: 3mm, say(call, "Before any of this on live equipment: safety glasses and gloves, power locked out and capacitors discharged before reaching in, hot discharge line, recover and never vent."))
    },
    to-choose(call),
  )
}

#let correct(paper, call, n) = {
  page-head(paper, "call", n)
  block(above: 1mm, below: 2.4mm, text(size: size.turn, weight: 700, say(call, "Repair it")))
  if call.because != none {
    [== #call.because · #say(call, "Why, with your figures")]
    block(width: 100%, height: 34mm, stroke: .7pt + ink, radius: .8mm, below: 4mm, {
      for at in (8mm, 16mm, 24mm) { place(top + left, dy: at, line(length: 100%, stroke: .4pt + hair)) }
    })
  }
  let repair = call.repair
  if repair == none { return }
  beside(52, 48, 5mm,
    {
      [== #repair.amount.no · #say(call, "How much refrigerant")]
      if repair.net { say(call, "Net, compared with what is in it now: add is +, recover is −; write 0 for none.") } else { say(call, "Add is +, recover is −; write 0 for none.") }
      parbreak()
      blank()
      [ #small(repair.amount.unit)]
      parbreak()
      if repair.slope != "" { small(repair.slope) }
      if repair.chart != none {
        small(say(call, "Charge chart: this machine today, with nothing else wrong. Read your figure, read the target, take the difference."))
        image(bytes(repair.chart), format: "svg", width: 92mm, alt: repair.chart_alt)
      }
    },
    {
      [== #say(call, "After the repair, stabilized (circle one)")]
      set text(size: size.cell)
      ruled(
        columns: (8mm, 1fr, auto), inset: (x: 1.4mm, y: 1.1mm), align: left + horizon,
        ..repair.changes.map(q => (numbered(q.no), q.text, pills(("DOWN", "SAME", "UP").map(word => say(call, word))))).flatten(),
      )
      if call.unsafe_fails { caution(above: 3mm)[*#say(call, "An unsafe step fails this call")* #say(call, "under the practice of this class.")] }
      caution(above: 4mm, say(call, "Weigh refrigerant on the scale and never fill a cylinder past 80 %; liquid causes frostbite; recover, never vent. Charge blends as a liquid, throttled. Flammable refrigerants need rated tools, ventilation and no ignition sources. Local codes and certification (EPA 608) decide who may open a system."))
    },
  )
  if large {
    pagebreak()
    page-head(paper, "call", n)
  }
  [== #repair.order.no · #say(call, "What to do, in order")]
  grid(
    columns: (52fr, 48fr), align: (left + horizon, right + horizon),
    say(call, "Write the step numbers in the order you would do them. Leave out what is not needed."),
    blank(width: 78mm, height: 9mm),
  )
  v(2mm)
  let steps = repair.order.steps
  let columns = if large { 1 } else { 2 }
  let half = calc.ceil(steps.len() / columns)
  grid(
    columns: (1fr,) * columns, column-gutter: 4mm,
    ..steps.chunks(half).map(rows => choice-rows(rows, 1, size: size.step, key: if large { 11mm } else { 8mm }, gap: 2.5mm)),
  )
}

#let situation(paper, part, n) = {
  page-head(paper, "call", n, first: true)
  beside(56, 44, 5mm,
    {
      [== #part.title · #part.points #say(part, "points")]
      part.story
      if part.looks.len() > 0 { [== #say(part, "What was seen")]; list(..part.looks) }
    },
    framed([
      == #say(part, "Nameplate"): #part.machine
      #set text(size: size.plate)
      #grid(
        columns: (1fr, auto), inset: (x: 1mm, y: .8mm), align: (left, right),
        ..part.plate.map(row => (row.label, strong-figure(row.text))).flatten(),
      )
    ]),
  )
  v(1mm)
  let shown(one) = {
    [== #one.title]
    set text(size: size.cell)
    let many = one.columns.len()
    table(
      columns: if many == 2 { (1fr, auto) } else { (auto,) + (1fr,) * (many - 1) },
      inset: (x: .8mm, y: if one.rows.len() > 9 { .8mm } else { 1.2mm }),
      align: (x, y) => if x == 0 { left + bottom } else { right + bottom },
      stroke: (bottom: .4pt + hair),
      table.header(..one.columns.map(column-head)),
      ..one.rows.map(row => row.enumerate().map(((x, cell)) => if x == 0 { small(cell) } else { strong-figure(cell) })).flatten(),
    )
  }
  for one in part.traces {
    [== #one.title]
    image(bytes(one.svg), format: "svg", width: 100%, alt: one.alt)
  }
  let narrow = part.tables.filter(one => one.columns.len() == 2)
  let wide = part.tables.filter(one => one.columns.len() > 2)
  for one in wide { shown(one) }
  if large { for one in narrow { shown(one) } } else if narrow.len() > 0 {
    grid(columns: (1fr,) * calc.max(narrow.len(), 2), column-gutter: 6mm, ..narrow.map(shown))
  }
  if large {
    pagebreak()
    page-head(paper, "call", n)
  }
  v(1mm)
  beside(46, 54, 5mm,
    {
      [== #say(part, "Work out")]
      set text(size: size.cell)
      set par(leading: .42em)
      ruled(
        columns: (8mm, 1fr, 22mm, if large { 16mm } else { 11mm }), inset: (x: 1.4mm, y: 1.1mm),
        align: (left + horizon, left + horizon, right + horizon, left + horizon),
        ..part.numbers.map(q => (numbered(q.no), q.text, blank(), small(figure-text(q.unit)))).flatten(),
      )
      small(say(part, "An answer with no number behind it earns a quarter at most. What follows from your own numbers counts."))
      caution(above: 3mm, say(part, "Before any of this on live equipment: safety glasses and gloves, power locked out and capacitors discharged before reaching in, hot discharge line, recover and never vent."))
    },
    for asked in part.choices {
      block(above: 3mm, below: 1.6mm, width: 100%, breakable: false, grid(
        columns: (1fr, auto), align: horizon,
        [== #asked.no · #asked.title],
        blank(width: 9mm, height: if large { 9mm } else { 5.6mm }),
      ))
      choice-rows(asked.rows, 1)
    },
  )
}

#let drill(paper, part, n) = {
  page-head(paper, "part", n, first: true)
  [== #part.title · #part.points #say(part, "points")]
  part.instruction
  v(1mm)
  for item in part.items {
    let text-side = {
      [*#item.number* #item.prompt]
      parbreak()
      if item.readings.len() > 0 { small(item.readings.map(row => [#row.label #text(weight: 600, row.text)]).join[ · ]); parbreak() }
      for line in item.lines { small(figure-text(line)); parbreak() }
      if item.lettered.len() > 0 { choice-rows(item.lettered, 2) }
      if item.worked != "" { small[#say(part, "Worked"): #item.worked]; parbreak() }
      for q in item.questions {
        [#box(width: 5mm, numbered(q.no)) #q.text #h(1mm) #blank() #small(q.unit)]
        parbreak()
      }
    }
    block(
      breakable: false, width: 100%, above: 0mm, below: 0mm, inset: (y: 1.8mm), stroke: (bottom: .4pt + hair),
      if item.dial == none { text-side } else {
        grid(columns: (size.drill-dial + 4mm, 1fr), align: horizon, dial(item.dial, size.drill-dial), text-side)
      },
    )
  }
}

#for (index, paper) in data.papers.enumerate() {
  let end = label("end-" + str(index))
  set page(footer: context foot(
    say(paper, training),
    text(size: 7.4pt, fill: ink)[#paper.name · #paper.code · #say(paper, "page") #counter(page).display() #say(paper, "of") #counter(page).at(end).first()],
  ))
  counter(page).update(1)
  set text(lang: paper.at("lang", default: "en"))
  for (at, call) in paper.calls.enumerate() {
    if at > 0 { pagebreak() }
    if call.kind == "drill" {
      drill(paper, call, at + 1)
    } else if call.kind == "situation" {
      situation(paper, call, at + 1)
    } else {
      diagnose(paper, call, at + 1)
      if call.repair != none or call.because != none {
        pagebreak()
        correct(paper, call, at + 1)
      }
    }
  }
  [#metadata(none)#end]
}
