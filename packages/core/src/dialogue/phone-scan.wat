;; The inner loop of looking for a name among phones, 16 places at a time, over a few blocks of memory that stand here.
;; Its twin in TypeScript (phone-scan.ts) is its oracle, and says what the rows are.
(module
  (memory (export "memory") 2)
  ;; What speaks for it when a phone is heard: 48 signed bytes for each that is looked for, 255 of these at most.
  (global $gains (export "gains") i32 (i32.const 0))
  ;; What speaks against it when each is not heard, and each phone that is heard beside them: 48 bytes.
  (global $misses (export "misses") i32 (i32.const 12288))
  (global $extras (export "extras") i32 (i32.const 12544))
  ;; The phones, 8192 at most, and as many vectors behind them as are ever read. No phone stands before them.
  (global $sounds (export "sounds") i32 (i32.const 16384))
  ;; At 28672 of each what speaks against it, and at 40960 the row; a vector before both is read, never written but for the one below.
  ;; Addresses in the loops are written out, each as $at with an offset: summed up they took a quarter of the time.
  ;; Where it may end, 16 bits each.
  (global $found (export "found") i32 (i32.const 53248))

  ;; How many places were found in so many phones, for so many that are looked for, for which at least so much speaks.
  (func (export "scan") (param $sought i32) (param $length i32) (param $least i32) (result i32)
    (local $end i32) (local $at i32) (local $n i32) (local $count i32) (local $mask i32)
    (local $a v128) (local $b v128) (local $c v128) (local $heard v128) (local $miss v128) (local $bound v128)
    ;; The row has one place more than there are phones.
    (local.set $end (i32.and (i32.add (local.get $length) (i32.const 16)) (i32.const -16)))

    ;; A table of 48 is looked up in thirds: what is not in a third is 0 there.
    (local.set $a (v128.load (global.get $extras)))
    (local.set $b (v128.load offset=16 (global.get $extras)))
    (local.set $c (v128.load offset=32 (global.get $extras)))
    (loop $next
      (local.set $heard (v128.load offset=16384 (local.get $at)))
      (v128.store offset=28672 (local.get $at)
        (v128.or
          (v128.or
            (i8x16.swizzle (local.get $a) (local.get $heard))
            (i8x16.swizzle (local.get $b) (i8x16.sub (local.get $heard) (i8x16.splat (i32.const 16)))))
          (i8x16.swizzle (local.get $c) (i8x16.sub (local.get $heard) (i8x16.splat (i32.const 32))))))
      ;; It may begin anywhere.
      (v128.store offset=40960 (local.get $at) (i8x16.splat (i32.const 0)))
      (local.set $at (i32.add (local.get $at) (i32.const 16)))
      (br_if $next (i32.lt_u (local.get $at) (local.get $end))))
    (v128.store (i32.const 40944) (i8x16.splat (i32.const -128)))

    (loop $phone
      (local.set $at (i32.add (global.get $gains) (i32.mul (local.get $n) (i32.const 48))))
      (local.set $a (v128.load (local.get $at)))
      (local.set $b (v128.load offset=16 (local.get $at)))
      (local.set $c (v128.load offset=32 (local.get $at)))
      (local.set $miss (i8x16.splat (i32.load8_s (i32.add (global.get $misses) (local.get $n)))))
      ;; From the last vector to the first, so that each row takes the place of the one before: it hangs on places before only.
      (local.set $at (local.get $end))
      (loop $next
        (local.set $at (i32.sub (local.get $at) (i32.const 16)))
        (local.set $heard (v128.load offset=16383 (local.get $at)))
        (v128.store offset=40960 (local.get $at)
          (i8x16.max_s
            (i8x16.add_sat_s
              (i8x16.max_s
                (v128.load offset=40959 (local.get $at))
                (i8x16.sub_sat_s
                  (v128.load offset=40958 (local.get $at))
                  (v128.load offset=28670 (local.get $at))))
              (v128.or
                (v128.or
                  (i8x16.swizzle (local.get $a) (local.get $heard))
                  (i8x16.swizzle (local.get $b) (i8x16.sub (local.get $heard) (i8x16.splat (i32.const 16)))))
                (i8x16.swizzle (local.get $c) (i8x16.sub (local.get $heard) (i8x16.splat (i32.const 32))))))
            (i8x16.sub_sat_s
              (v128.load offset=40960 (local.get $at))
              (local.get $miss))))
        (br_if $next (local.get $at)))
      (local.set $n (i32.add (local.get $n) (i32.const 1)))
      (br_if $phone (i32.lt_u (local.get $n) (local.get $sought))))

    (local.set $bound (i8x16.splat (local.get $least)))
    (local.set $at (i32.const 0))
    (loop $next
      (local.set $mask
        (i8x16.bitmask (i8x16.ge_s (v128.load offset=40960 (local.get $at)) (local.get $bound))))
      (block $none
        (loop $lowest
          (br_if $none (i32.eqz (local.get $mask)))
          (i32.store16
            (i32.add (global.get $found) (i32.shl (local.get $count) (i32.const 1)))
            (i32.add (local.get $at) (i32.ctz (local.get $mask))))
          (local.set $count (i32.add (local.get $count) (i32.const 1)))
          (local.set $mask (i32.and (local.get $mask) (i32.sub (local.get $mask) (i32.const 1))))
          (br $lowest)))
      (local.set $at (i32.add (local.get $at) (i32.const 16)))
      (br_if $next (i32.lt_u (local.get $at) (local.get $end))))
    (local.get $count)))
