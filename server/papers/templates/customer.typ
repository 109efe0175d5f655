#import "common.typ": *
#show: set-page
#head
= What was done to your vehicle
#v(0.3em)
#strong(whose) \
#text(fill: soft)[The warning code was #d.codes: #d.where.]
#if d.complaint != "" [ \ You told us: "#d.complaint"]

== What was wrong
#for line in d.wrong [#line \ ]

#if d.how.len() > 0 [
  == How we know
  #table(columns: (1.7fr, 1fr, 1fr, 1.2fr), stroke: (x, y) => if y == 0 { (bottom: 0.8pt + ink) } else { (bottom: 0.3pt + soft) }, inset: 5pt,
    [], [before], [after], [should read],
    ..d.how.map(row => ([#row.what], [#if row.before != "" [#row.before] else [--]], [#if row.after != "" [#row.after] else [--]], [#row.should])).flatten())
]
#picture(100%)

#if d.done.len() > 0 [
  == What was done
  #for line in d.done [#line \ ]
]
== How it stands
#d.stands
#if d.unproven.len() > 0 and d.done.len() > 0 [
  #text(fill: soft)[Still to be shown: #d.unproven.join("; ").]
]

#if d.time != "" or d.worth != "" [
  == Time
  #d.time #d.worth
]

== What to watch for
#for line in (d.next + d.watch) [- #line
]
#v(1fr)
#text(8.5pt, fill: soft)[Emission parts are regulated: local rules and licensed practice come first.]
