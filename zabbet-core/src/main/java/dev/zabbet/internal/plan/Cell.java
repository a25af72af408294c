package dev.zabbet.internal.plan;

import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.plan.value.Variety;
import dev.zabbet.schema.Table;
import java.util.List;

/** Where the values of one column of a planned node come from. */
sealed interface Cell {

    /** Tells whether the values are others in another variation. */
    default boolean varies() {
        return true;
    }

    /** A setting of the factory. */
    record Set(Setting setting) implements Cell {
        boolean isInvented() {
            return setting instanceof Setting.Invented;
        }

        @Override
        public boolean varies() {
            return isInvented();
        }
    }

    /** A column of parents that are given. */
    record OfParents(Setting.Parents parents, Table target, int targetPosition) implements Cell {
        @Override
        public boolean varies() {
            return false;
        }
    }

    /** A column of parents that are stored already; {@code draw} names what the choice is drawn for. */
    record OfStored(Table target, int targetPosition, String draw, boolean skewed) implements Cell {}

    /** A column of parents that a plan before makes. */
    record OfPlanned(ParentPick pick, int targetPosition) implements Cell {}

    /** The same value as a column of another node: row r takes it from row r / divisor. */
    record Link(Node node, int position, int divisor) implements Cell {
        @Override
        public boolean varies() {
            return false;
        }
    }

    /** A document of which something is said at places. */
    record Inside(Cell base, List<Part> parts) implements Cell {
        /** What is said of a place: a setting, or the link to a parent's key. */
        record Part(DocumentPath path, Cell cell) {}
    }

    /** Made from the schema. */
    record Made(Maker maker, Variety variety) implements Cell {}

    /** Made together with other columns, so that checks on all of them hold. */
    record Solved(Puzzle puzzle, int index) implements Cell {}

    /** The number that the store reserved. */
    record Reserved() implements Cell {
        @Override
        public boolean varies() {
            return false;
        }
    }

    /** Left out: the store puts null, its default or what it computes. */
    record LeftOut() implements Cell {
        @Override
        public boolean varies() {
            return false;
        }
    }
}
