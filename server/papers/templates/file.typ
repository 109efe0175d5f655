#import "common.typ": *
#show: set-page
#head
= #d.title
#v(0.3em)
#strong(whose) #if d.vin != "" [ · #d.vin] \
#d.codes · #d.where · #d.family

#d.state
#if d.closed != none [ \ Closed by #d.closed.by, #d.closed.at#if d.closed.reason != "" [: #d.closed.reason]]

#for item in d.decided [
  == Decided #item.at, on #item.readings
  #item.says #item.how_sure
  #for line in item.because [- #line
  ]
]
#if d.decided.len() == 0 [
  == How sure
  #d.how_sure
  #if d.because.len() > 0 [
    == Evidence
    #for line in d.because [- #line
    ]
  ]
]
#if d.before.len() > 0 [
  == Before it is fitted
  #for row in d.before [- #row.what: should read #row.expect. Otherwise, #row.withdraws.
  ]
]
#if d.open.len() > 0 [
  == Evidence against, or unclear
  #for line in d.open [- #line
  ]
]
#picture(100%)

#if d.done.len() > 0 [
  == Repair
  #for line in d.done [- #line
  ]
]
#if d.proof.len() > 0 [
  == Proof
  #table(columns: (auto, 1.6fr, 1fr, auto), stroke: (x, y) => (bottom: 0.3pt + soft), inset: 4pt,
    ..d.proof.map(row => ([#if row.by != none [✓] else [○]], [#row.what], [#row.expect], [#if row.by != none [reading #(row.by + 1)]])).flatten())
]
#if d.steps.len() > 0 [
  == Steps done
  #for row in d.steps [- #row.do#if row.note != "" [ (#row.note)]#if row.by != "" [, #row.by]
  ]
]
== Readings
#set text(9pt)
#table(columns: (auto, auto, 2fr, 1.1fr, auto, auto), stroke: (x, y) => if y == 0 { (bottom: 0.8pt + ink) } else { (bottom: 0.3pt + soft) }, inset: 3.5pt,
  table.header([\#], [value], [where and how], [expected], [judged], [by, when]),
  ..d.lines.map(row => (
    [#row.n], if row.struck != "" { strike[#row.value] } else { [#row.value] },
    [#row.where#if row.note != "" [ (#row.note)]#if row.at("instrument", default: "") != "" [ #row.instrument]#if row.struck != "" [ Struck: #row.struck]], [#row.expected],
    [#(if row.result == "pass" { "good" } else if row.result == "fail" { "bad" } else if row.result == "unclear" { "not clear" } else { "--" })],
    [#row.by \ #row.at])).flatten())
#if d.at("recordings", default: ()).len() > 0 [
  == Recordings
  #for row in d.recordings [
    #block(breakable: false)[
      #strong(row.title) #row.about \
      #image(row.file, width: 100%)
      #text(9pt)[#row.figures.join(" · ")]
    ]
  ]
]
#if d.photos.len() > 0 [
  == Photos
  #grid(columns: (1fr, 1fr, 1fr), gutter: 8pt, ..d.photos.map(row => [#image(str(row.number) + ".jpg", width: 100%) #text(8pt, row.of)]))
]
== Figures used
#for line in d.figures [- #line
]
#text(fill: soft)[#d.time #d.worth #d.unseen Case file #d.format. Ledger: #d.entries entries, newest #raw(d.seal).]

#text(fill: soft)[Emission parts are regulated: local rules and licensed practice come first.]
