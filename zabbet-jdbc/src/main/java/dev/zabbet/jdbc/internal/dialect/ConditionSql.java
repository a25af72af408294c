package dev.zabbet.jdbc.internal.dialect;

import dev.zabbet.internal.document.DocumentPath;
import dev.zabbet.internal.store.ConditionMatch;
import dev.zabbet.row.Matcher;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.RowAtHand;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A condition as SQL; its values are parameters. */
public final class ConditionSql implements Condition.Visitor<String> {
    private final Dialect dialect;
    private final Table table;
    private final List<@Nullable Object> parameters = new ArrayList<>();
    private final List<Column> columns = new ArrayList<>();
    private static final String EVERY_ROW = "1 = 1";

    private final Condition where;
    private final String text;
    private final Set<Column> lookedAt = new LinkedHashSet<>();
    private boolean coarse;

    /** A pattern is text, whatever the column is. */
    private record Pattern(String text) {}

    public ConditionSql(Dialect dialect, Table table, Condition where) {
        this.where = where;
        this.dialect = dialect;
        this.table = table;
        this.text = where.equals(Condition.all()) ? "" : where.accept(this);
    }

    private Column column(String name) {
        Column column = table.requireColumn(name);
        lookedAt.add(column);
        return column;
    }

    public boolean isEmpty() {
        return text.isEmpty();
    }

    public String text() {
        return text;
    }

    /** Sets the parameters, from the first on. */
    int bind(PreparedStatement statement) throws SQLException {
        return bind(statement, 1);
    }

    /** Sets the parameters, from one on; returns the number of the parameter behind them. */
    public int bind(PreparedStatement statement, int first) throws SQLException {
        for (int i = 0; i < parameters.size(); i++) {
            if (parameters.get(i) instanceof Pattern pattern) {
                statement.setString(first + i, pattern.text());
            } else {
                dialect.bind(statement, first + i, columns.get(i), parameters.get(i));
            }
        }
        return first + parameters.size();
    }

    @Override
    public String visitEqual(Condition.Equal equal) {
        Column column = column(equal.column());
        return name(column) + (equal.value() == null ? " IS NULL" : " = " + parameter(column, equal.value()));
    }

    @Override
    public String visitCompared(Condition.Compared compared) {
        Column column = column(compared.column());
        return name(column) + " " + compared.comparison().sql() + " " + parameter(column, compared.value());
    }

    @Override
    public String visitBetween(Condition.Between between) {
        Column column = column(between.column());
        return name(column) + " BETWEEN " + parameter(column, between.least()) + " AND "
                + parameter(column, between.most());
    }

    @Override
    public String visitLike(Condition.Like like) {
        Column column = column(like.column());
        parameters.add(new Pattern(dialect.likePattern(like.pattern(), like.ignoreCase())));
        columns.add(column);
        return dialect.like(name(column), like.ignoreCase());
    }

    /** What a database's own operators find at a place may be more than what is meant: the rows are looked at afterwards. */
    @Override
    public String visitInside(Condition.Inside inside) {
        coarse = true;
        Column column = column(inside.column());
        DocumentPath path = DocumentPath.read(inside.path(), inside.column() + inside.path());
        Object wanted = inside.wanted();
        return wanted == null || wanted instanceof Matcher
                ? EVERY_ROW
                : dialect.inside(column, path.steps(), wanted).orElse(EVERY_ROW);
    }

    @Override
    public String visitNot(Condition.Not not) {
        boolean before = coarse;
        coarse = false;
        String part = not.part().accept(this);
        String negated = coarse ? EVERY_ROW : "NOT (" + part + ")"; // of too many rows the others are too few
        coarse |= before;
        return negated;
    }

    /** Tells whether it finds other rows too, so that each has to be looked at. */
    public boolean isCoarse() {
        return coarse;
    }

    /** Tells whether a row is meant that was found. */
    public boolean isMeant(Row row) {
        return !coarse || ConditionMatch.holds(where, row::get);
    }

    /** Returns the columns that {@link #isMeant} looks at. */
    public Set<Column> lookedAt() {
        return lookedAt;
    }

    /** Returns what takes the rows that are meant, of those that it finds. */
    Consumer<RowAtHand> looking(Consumer<RowAtHand> reader) {
        if (!coarse) {
            return reader;
        }
        return row -> {
            if (ConditionMatch.holds(where, column -> row.at(table.requirePosition(column)))) {
                reader.accept(row);
            }
        };
    }

    @Override
    public String visitAnd(Condition.And and) {
        return joined(and.parts(), " AND ", "1 = 1");
    }

    @Override
    public String visitOr(Condition.Or or) {
        return joined(or.parts(), " OR ", "1 = 0");
    }

    private String joined(List<Condition> parts, String by, String none) {
        return parts.isEmpty()
                ? none
                : parts.stream().map(part -> part.accept(this)).collect(Collectors.joining(by, "(", ")"));
    }

    @Override
    public String visitOneOf(Condition.OneOf oneOf) {
        Column column = column(oneOf.column());
        List<@Nullable Object> values =
                oneOf.values().stream().filter(Objects::nonNull).collect(Collectors.toList());
        String list = values.isEmpty()
                ? "1 = 0"
                : name(column) + " IN ("
                        + values.stream().map(v -> parameter(column, v)).collect(Collectors.joining(", ")) + ")";
        return values.size() == oneOf.values().size() ? list : "(" + list + " OR " + name(column) + " IS NULL)";
    }

    private String parameter(Column column, @Nullable Object value) {
        parameters.add(value);
        columns.add(column);
        return dialect.placeholder(column);
    }

    private String name(Column column) {
        return dialect.quote(column.sqlName());
    }
}
