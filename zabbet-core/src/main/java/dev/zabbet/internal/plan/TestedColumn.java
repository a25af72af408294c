package dev.zabbet.internal.plan;

import dev.zabbet.internal.check.Constant;
import dev.zabbet.schema.Column;
import org.jspecify.annotations.Nullable;

/** What a column of a planned row will hold, as far as checks are concerned. */
final class TestedColumn {
    private TestedColumn() {}

    /** Returns the value; of a column that is left to the database its default, if that is a constant. */
    static @Nullable Object value(Node node, int position, int row) {
        if (!node.isLeftOut(position)) {
            return node.source(position).at(row);
        }
        Column column = node.table.columns().get(position);
        return Constant.ofDefault(column).orElse(null);
    }

    /** Tells whether only the database knows what the column will hold. */
    static boolean isUnknown(Node node, int position) {
        Column column = node.table.columns().get(position);
        return node.isLeftOut(position)
                && (column.isComputed()
                        || (column.defaultText().isPresent()
                                && !Constant.isNull(column)
                                && Constant.ofDefault(column).isEmpty()));
    }
}
