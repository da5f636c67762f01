;; The inner loops of counting, over one block of memory. Bits are in whole vectors of 16 bytes, unused ones 0.
;; Nothing is called from within a loop: calls are not inlined everywhere, and took as long as the rest.
;; A twin of each in TypeScript is its oracle: countBoth (bits.ts), GroupLists.count and has (group-lists.ts), addUp (add-up.ts).
(module
  (import "larder" "memory" (memory 1))

  ;; How many bits are in both sets, which end at $end bytes from their beginning.
  (func (export "countBoth") (param $a i32) (param $b i32) (param $length i32) (result i32)
    (local $end i32) (local $sum v128)
    (local.set $end (i32.add (local.get $a) (local.get $length)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $a) (local.get $end)))
        (local.set $sum
          (i32x4.add
            (local.get $sum)
            (i32x4.extadd_pairwise_i16x8_u
              (i16x8.extadd_pairwise_i8x16_u
                (i8x16.popcnt (v128.and (v128.load (local.get $a)) (v128.load (local.get $b))))))))
        (local.set $a (i32.add (local.get $a) (i32.const 16)))
        (local.set $b (i32.add (local.get $b) (i32.const 16)))
        (br $next)))
    (i32.add
      (i32.add (i32x4.extract_lane 0 (local.get $sum)) (i32x4.extract_lane 1 (local.get $sum)))
      (i32.add (i32x4.extract_lane 2 (local.get $sum)) (i32x4.extract_lane 3 (local.get $sum)))))

  ;; How many documents of a list, given by its first and last byte, are in a set.
  (func (export "countList") (param $at i32) (param $end i32) (param $bits i32) (result i32)
    (local $count i32) (local $doc i32)
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (local.set $count
          (i32.add (local.get $count) (i32.and
              (i32.shr_u
                (i32.load
                  (i32.add
                    (local.get $bits)
                    (i32.shl (i32.shr_u (local.tee $doc (i32.load (local.get $at))) (i32.const 5)) (i32.const 2))))
                (local.get $doc))
              (i32.const 1))))
        (local.set $at (i32.add (local.get $at) (i32.const 4)))
        (br $next)))
    (local.get $count))

  ;; Whether any is.
  (func (export "hasList") (param $at i32) (param $end i32) (param $bits i32) (result i32)
    (local $doc i32)
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (if (i32.and
              (i32.shr_u
                (i32.load
                  (i32.add
                    (local.get $bits)
                    (i32.shl (i32.shr_u (local.tee $doc (i32.load (local.get $at))) (i32.const 5)) (i32.const 2))))
                (local.get $doc))
              (i32.const 1)) (then (return (i32.const 1))))
        (local.set $at (i32.add (local.get $at) (i32.const 4)))
        (br $next)))
    (i32.const 0))

  ;; Adds one to the group of each document in a set; numbers of 8 bits.
  (func (export "addSingle8")
    (param $numbers i32) (param $bits i32) (param $length i32) (param $counts i32)
    (local $end i32) (local $word i32) (local $base i32) (local $count i32)
    (local.set $end (i32.add (local.get $bits) (local.get $length)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $bits) (local.get $end)))
        (local.set $word (i32.load (local.get $bits)))
        (block $empty
          (loop $lowest
            (br_if $empty (i32.eqz (local.get $word)))
            (local.set $count
              (i32.add
                (local.get $counts)
                (i32.shl (i32.load8_u (i32.add (local.get $numbers) (i32.add (local.get $base) (i32.ctz (local.get $word))))) (i32.const 2))))
            (i32.store (local.get $count) (i32.add (i32.load (local.get $count)) (i32.const 1)))
            (local.set $word (i32.and (local.get $word) (i32.sub (local.get $word) (i32.const 1))))
            (br $lowest)))
        (local.set $bits (i32.add (local.get $bits) (i32.const 4)))
        (local.set $base (i32.add (local.get $base) (i32.const 32)))
        (br $next))))

  ;; Adds one to the group of each document in a set; numbers of 16 bits.
  (func (export "addSingle16")
    (param $numbers i32) (param $bits i32) (param $length i32) (param $counts i32)
    (local $end i32) (local $word i32) (local $base i32) (local $count i32)
    (local.set $end (i32.add (local.get $bits) (local.get $length)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $bits) (local.get $end)))
        (local.set $word (i32.load (local.get $bits)))
        (block $empty
          (loop $lowest
            (br_if $empty (i32.eqz (local.get $word)))
            (local.set $count
              (i32.add
                (local.get $counts)
                (i32.shl (i32.load16_u (i32.add (local.get $numbers) (i32.shl (i32.add (local.get $base) (i32.ctz (local.get $word))) (i32.const 1)))) (i32.const 2))))
            (i32.store (local.get $count) (i32.add (i32.load (local.get $count)) (i32.const 1)))
            (local.set $word (i32.and (local.get $word) (i32.sub (local.get $word) (i32.const 1))))
            (br $lowest)))
        (local.set $bits (i32.add (local.get $bits) (i32.const 4)))
        (local.set $base (i32.add (local.get $base) (i32.const 32)))
        (br $next))))

  ;; Adds one to the group of each document in a set; numbers of 32 bits.
  (func (export "addSingle32")
    (param $numbers i32) (param $bits i32) (param $length i32) (param $counts i32)
    (local $end i32) (local $word i32) (local $base i32) (local $count i32)
    (local.set $end (i32.add (local.get $bits) (local.get $length)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $bits) (local.get $end)))
        (local.set $word (i32.load (local.get $bits)))
        (block $empty
          (loop $lowest
            (br_if $empty (i32.eqz (local.get $word)))
            (local.set $count
              (i32.add
                (local.get $counts)
                (i32.shl (i32.load (i32.add (local.get $numbers) (i32.shl (i32.add (local.get $base) (i32.ctz (local.get $word))) (i32.const 2)))) (i32.const 2))))
            (i32.store (local.get $count) (i32.add (i32.load (local.get $count)) (i32.const 1)))
            (local.set $word (i32.and (local.get $word) (i32.sub (local.get $word) (i32.const 1))))
            (br $lowest)))
        (local.set $bits (i32.add (local.get $bits) (i32.const 4)))
        (local.set $base (i32.add (local.get $base) (i32.const 32)))
        (br $next))))

  ;; Adds one to each group of each document in a set, and for one in none to the first count; numbers of 8 bits.
  (func (export "addSeveral8")
    (param $starts i32) (param $items i32) (param $bits i32) (param $length i32) (param $counts i32)
    (local $end i32) (local $word i32) (local $base i32) (local $doc i32) (local $from i32) (local $to i32)
    (local $count i32)
    (local.set $end (i32.add (local.get $bits) (local.get $length)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $bits) (local.get $end)))
        (local.set $word (i32.load (local.get $bits)))
        (block $empty
          (loop $lowest
            (br_if $empty (i32.eqz (local.get $word)))
            (local.set $doc
              (i32.add
                (local.get $starts)
                (i32.shl (i32.add (local.get $base) (i32.ctz (local.get $word))) (i32.const 2))))
            (local.set $from (i32.load (local.get $doc)))
            (local.set $to (i32.load offset=4 (local.get $doc)))
            (if (i32.eq (local.get $from) (local.get $to))
              (then (i32.store (local.get $counts) (i32.add (i32.load (local.get $counts)) (i32.const 1)))))
            (block $said
              (loop $item
                (br_if $said (i32.ge_u (local.get $from) (local.get $to)))
                (local.set $count
                  (i32.add
                    (local.get $counts)
                    (i32.shl
                      (i32.add (i32.const 1) (i32.load8_u (i32.add (local.get $items) (local.get $from))))
                      (i32.const 2))))
                (i32.store (local.get $count) (i32.add (i32.load (local.get $count)) (i32.const 1)))
                (local.set $from (i32.add (local.get $from) (i32.const 1)))
                (br $item)))
            (local.set $word (i32.and (local.get $word) (i32.sub (local.get $word) (i32.const 1))))
            (br $lowest)))
        (local.set $bits (i32.add (local.get $bits) (i32.const 4)))
        (local.set $base (i32.add (local.get $base) (i32.const 32)))
        (br $next))))

  ;; Adds one to each group of each document in a set, and for one in none to the first count; numbers of 16 bits.
  (func (export "addSeveral16")
    (param $starts i32) (param $items i32) (param $bits i32) (param $length i32) (param $counts i32)
    (local $end i32) (local $word i32) (local $base i32) (local $doc i32) (local $from i32) (local $to i32)
    (local $count i32)
    (local.set $end (i32.add (local.get $bits) (local.get $length)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $bits) (local.get $end)))
        (local.set $word (i32.load (local.get $bits)))
        (block $empty
          (loop $lowest
            (br_if $empty (i32.eqz (local.get $word)))
            (local.set $doc
              (i32.add
                (local.get $starts)
                (i32.shl (i32.add (local.get $base) (i32.ctz (local.get $word))) (i32.const 2))))
            (local.set $from (i32.load (local.get $doc)))
            (local.set $to (i32.load offset=4 (local.get $doc)))
            (if (i32.eq (local.get $from) (local.get $to))
              (then (i32.store (local.get $counts) (i32.add (i32.load (local.get $counts)) (i32.const 1)))))
            (block $said
              (loop $item
                (br_if $said (i32.ge_u (local.get $from) (local.get $to)))
                (local.set $count
                  (i32.add
                    (local.get $counts)
                    (i32.shl
                      (i32.add (i32.const 1) (i32.load16_u (i32.add (local.get $items) (i32.shl (local.get $from) (i32.const 1)))))
                      (i32.const 2))))
                (i32.store (local.get $count) (i32.add (i32.load (local.get $count)) (i32.const 1)))
                (local.set $from (i32.add (local.get $from) (i32.const 1)))
                (br $item)))
            (local.set $word (i32.and (local.get $word) (i32.sub (local.get $word) (i32.const 1))))
            (br $lowest)))
        (local.set $bits (i32.add (local.get $bits) (i32.const 4)))
        (local.set $base (i32.add (local.get $base) (i32.const 32)))
        (br $next))))

  ;; Adds one to each group of each document in a set, and for one in none to the first count; numbers of 32 bits.
  (func (export "addSeveral32")
    (param $starts i32) (param $items i32) (param $bits i32) (param $length i32) (param $counts i32)
    (local $end i32) (local $word i32) (local $base i32) (local $doc i32) (local $from i32) (local $to i32)
    (local $count i32)
    (local.set $end (i32.add (local.get $bits) (local.get $length)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $bits) (local.get $end)))
        (local.set $word (i32.load (local.get $bits)))
        (block $empty
          (loop $lowest
            (br_if $empty (i32.eqz (local.get $word)))
            (local.set $doc
              (i32.add
                (local.get $starts)
                (i32.shl (i32.add (local.get $base) (i32.ctz (local.get $word))) (i32.const 2))))
            (local.set $from (i32.load (local.get $doc)))
            (local.set $to (i32.load offset=4 (local.get $doc)))
            (if (i32.eq (local.get $from) (local.get $to))
              (then (i32.store (local.get $counts) (i32.add (i32.load (local.get $counts)) (i32.const 1)))))
            (block $said
              (loop $item
                (br_if $said (i32.ge_u (local.get $from) (local.get $to)))
                (local.set $count
                  (i32.add
                    (local.get $counts)
                    (i32.shl
                      (i32.add (i32.const 1) (i32.load (i32.add (local.get $items) (i32.shl (local.get $from) (i32.const 2)))))
                      (i32.const 2))))
                (i32.store (local.get $count) (i32.add (i32.load (local.get $count)) (i32.const 1)))
                (local.set $from (i32.add (local.get $from) (i32.const 1)))
                (br $item)))
            (local.set $word (i32.and (local.get $word) (i32.sub (local.get $word) (i32.const 1))))
            (br $lowest)))
        (local.set $bits (i32.add (local.get $bits) (i32.const 4)))
        (local.set $base (i32.add (local.get $base) (i32.const 32)))
        (br $next)))))
