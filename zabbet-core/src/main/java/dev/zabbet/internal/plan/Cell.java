package dev.zabbet.internal.plan;

import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.schema.Table;

/** Where the values of one column of a planned node come from. */
sealed interface Cell {
    /** A setting of the factory. */
    record Set(Setting setting) implements Cell {}

    /** A column of parents that are given. */
    record OfParents(Setting.Parents parents, Table target, int targetPosition) implements Cell {}

    /** A column of parents that are stored already; {@code draw} names what the choice is drawn for. */
    record OfStored(Table target, int targetPosition, String draw, boolean skewed) implements Cell {}

    /** A column of parents that a plan before makes. */
    record OfPlanned(ParentPick pick, int targetPosition) implements Cell {}

    /** The same value as a column of another node: row r takes it from row r / divisor. */
    record Link(Node node, int position, int divisor) implements Cell {}

    /** Made from the schema. */
    record Made(Maker maker, Variety variety) implements Cell {}

    /** Made together with other columns, so that checks on all of them hold. */
    record Solved(Puzzle puzzle, int index) implements Cell {}

    /** The number that the store reserved. */
    record Reserved() implements Cell {}

    /** Left out: the store puts null, its default or what it computes. */
    record LeftOut() implements Cell {}
}
