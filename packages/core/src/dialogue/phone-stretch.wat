;; The table that likeliestStretch goes through (phone-channel.ts, which is its oracle and says what it holds), column by column, four
;; of what is looked for at a time. To each value of it what it costs to have missed all up to there is added, so that the best way to
;; come from above is the largest above.
(module
  (memory (export "memory") 1)
  ;; What speaks against each phone after each other, and after nothing: bytes, 39 for each.
  (global $after (export "after") i32 (i32.const 0))
  ;; What speaks against each when it is heard beside what is looked for.
  (global $extra (export "extra") i32 (i32.const 1600))
  ;; Of each phone that may be heard what it speaks for each that is looked for: 32 numbers of 32 bits.
  (global $gains (export "gains") i32 (i32.const 2048))
  ;; The column, of as many.
  (global $column (export "column") i32 (i32.const 7168))
  ;; The one that stands before the phones, and these, 512 at most.
  (global $sounds (export "sounds") i32 (i32.const 7296))

  ;; Behind how many of so many phones the likeliest stretch for so many that are looked for ends. What speaks for it stands in front of
  ;; the column then.
  (func (export "stretch") (param $sought i32) (param $length i32) (result i32)
    (local $at i32) (local $end i32) (local $place i32) (local $other i32) (local $row i32) (local $follows i32)
    (local $value i32) (local $best i32) (local $bestAt i32) (local $last i32)
    (local $before v128) (local $carry v128) (local $own v128) (local $u v128) (local $seldom v128) (local $put v128)
    (local.set $end (i32.add (global.get $column) (i32.shl (local.get $sought) (i32.const 2))))
    (local.set $last (i32.sub (local.get $end) (i32.const 4)))
    (local.set $at (global.get $column))
    (loop $next
      (v128.store (local.get $at) (v128.const i32x4 0 0 0 0))
      (local.set $at (i32.add (local.get $at) (i32.const 16)))
      (br_if $next (i32.lt_u (local.get $at) (local.get $end))))

    (block $done
      (loop $places
        (br_if $done (i32.ge_u (local.get $place) (local.get $length)))
        ;; It may begin at each place: that is in its value.
        (local.set $before (i32x4.splat (local.get $place)))
        (local.set $place (i32.add (local.get $place) (i32.const 1)))
        (local.set $carry (i32x4.splat (local.get $place)))
        (local.set $other (i32.load8_u offset=7296 (local.get $place)))
        (local.set $follows
          (i32.load8_u
            (i32.add
              (i32.mul (i32.load8_u offset=7295 (local.get $place)) (i32.const 39))
              (local.get $other))))
        (local.set $seldom (i32x4.splat (i32.shl (local.get $follows) (i32.const 10))))
        (local.set $put
          (i32x4.splat
            (i32.shl
              (i32.sub (local.get $follows) (i32.load8_u offset=1600 (local.get $other)))
              (i32.const 10))))
        (local.set $row (i32.shl (local.get $other) (i32.const 7)))
        (local.set $at (global.get $column))
        (loop $next
          (local.set $own (v128.load (local.get $at)))
          (local.set $u
            (i32x4.max_s
              (i32x4.max_s
                (i32x4.add
                  (i32x4.add
                    (i8x16.shuffle 12 13 14 15 16 17 18 19 20 21 22 23 24 25 26 27 (local.get $before) (local.get $own))
                    (v128.load offset=2048 (local.get $row)))
                  (local.get $seldom))
                (i32x4.add (local.get $own) (local.get $put)))
              (local.get $carry)))
          (local.set $u
            (i32x4.max_s
              (local.get $u)
              (i8x16.shuffle 12 13 14 15 16 17 18 19 20 21 22 23 24 25 26 27 (local.get $carry) (local.get $u))))
          (local.set $u
            (i32x4.max_s
              (local.get $u)
              (i8x16.shuffle 8 9 10 11 12 13 14 15 16 17 18 19 20 21 22 23 (local.get $carry) (local.get $u))))
          (v128.store (local.get $at) (local.get $u))
          (local.set $carry
            (i8x16.shuffle 12 13 14 15 12 13 14 15 12 13 14 15 12 13 14 15 (local.get $u) (local.get $u)))
          (local.set $before (local.get $own))
          (local.set $row (i32.add (local.get $row) (i32.const 16)))
          (local.set $at (i32.add (local.get $at) (i32.const 16)))
          (br_if $next (i32.lt_u (local.get $at) (local.get $end))))
        (local.set $value (i32.load (local.get $last)))
        (if (i32.gt_s (i32.shr_s (local.get $value) (i32.const 10)) (i32.shr_s (local.get $best) (i32.const 10)))
          (then
            (local.set $best (local.get $value))
            (local.set $bestAt (local.get $place))))
        (br $places)))
    (i32.store (i32.sub (global.get $column) (i32.const 4)) (local.get $best))
    (local.get $bestAt)))
