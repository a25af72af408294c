package dev.zabbet.spring.internal.query;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.fake.FakeSupport.SortBy;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.type.TypeShape;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import java.lang.reflect.Method;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import net.sf.jsqlparser.JSQLParserException;
import net.sf.jsqlparser.parser.CCJSqlParserUtil;
import net.sf.jsqlparser.statement.Statement;
import net.sf.jsqlparser.statement.delete.Delete;
import net.sf.jsqlparser.statement.insert.Insert;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.update.Update;
import org.jspecify.annotations.Nullable;

/** A method whose query an annotation says, read once and answered for each call. Immutable. */
public final class QueryMethod {
    private final @Nullable SelectQuery select;
    private final @Nullable ChangeQuery change;
    private final @Nullable ResultForm form;

    private QueryMethod(@Nullable SelectQuery select, @Nullable ChangeQuery change, @Nullable ResultForm form) {
        this.select = select;
        this.change = change;
        this.form = form;
    }

    /**
     * Reads a query in the language of Jakarta Persistence 3.1, chapter 4, or Jakarta Data 1.0, chapter 5.
     *
     * @param entity the type of objects that the interface is about
     * @throws UnsupportedQueryException if it is not understood
     */
    public static QueryMethod ofObjects(String text, Method method, Class<?> entity, Schema schema)
            throws UnsupportedQueryException {
        EntityNames entities = new EntityNames(entity);
        QueryText query = QueryText.ofObjects(text, entity.getSimpleName());
        return read(query, new ObjectNames(entities, null), method, entity, table -> {
            Class<?> type = entities.named(table);
            return new QueryColumns.OfEntity(type, table(TypeShape.tableOf(type), schema));
        });
    }

    /**
     * Reads a query in SQL.
     *
     * @throws UnsupportedQueryException if it is not understood
     */
    public static QueryMethod ofRows(String text, Method method, Class<?> entity, Schema schema)
            throws UnsupportedQueryException {
        return read(
                QueryText.ofRows(text),
                new RowNames(schema, null),
                method,
                entity,
                table -> new QueryColumns.OfTable(table(RowNames.plain(table), schema)));
    }

    private static Table table(String name, Schema schema) throws UnsupportedQueryException {
        return schema.table(name).orElseThrow(() -> new UnsupportedQueryException("table " + name));
    }

    /** Finds how what is changed lies in its table. */
    private interface Changed {
        ChangeQuery.Columns in(String table) throws UnsupportedQueryException;
    }

    private static QueryMethod read(QueryText query, Names names, Method method, Class<?> entity, Changed changed)
            throws UnsupportedQueryException {
        Statement statement;
        try {
            statement = CCJSqlParserUtil.parse(query.sql());
        } catch (JSQLParserException e) {
            throw new UnsupportedQueryException(e);
        }
        Parameters parameters = new Parameters(method);
        if (statement instanceof Select select) {
            SelectQuery read = SelectReader.read(select, names, parameters);
            if (query.fetching()) {
                read.makeDistinct();
            }
            return new QueryMethod(read, null, ResultForm.of(read.items(), query.made(), method, entity));
        }
        ChangeQuery.Columns columns = changed.in(changedTable(statement));
        return new QueryMethod(null, ChangeQuery.read(statement, names, parameters, columns), null);
    }

    private static String changedTable(Statement statement) throws UnsupportedQueryException {
        if (statement instanceof Update update) {
            return update.getTable().getName();
        }
        if (statement instanceof Delete delete) {
            return delete.getTable().getName();
        }
        if (statement instanceof Insert insert) {
            return insert.getTable().getName();
        }
        throw new UnsupportedQueryException(statement.toString());
    }

    /** Tells whether the query changes rows. */
    public boolean isChange() {
        return change != null;
    }

    /** Changes what is stored, and returns how many rows. */
    public long change(Call call) {
        return Objects.requireNonNull(change).run(call);
    }

    /** Returns the alias of what the query selects from first. */
    public String root() {
        return Objects.requireNonNull(select).root();
    }

    /**
     * Returns all that the query selects, in the form of the method's elements.
     *
     * @param then the order of what the query's own order leaves open
     */
    public List<@Nullable Object> select(Call call, Comparator<Scope> then) {
        ResultForm elements = Objects.requireNonNull(form);
        List<@Nullable Object> all = new ArrayList<>();
        for (List<@Nullable Object> row : Objects.requireNonNull(select).rows(Scope.of(call), then)) {
            all.add(elements.of(row, call));
        }
        return all;
    }

    /**
     * Shows an object as an interface or a class with fewer properties.
     *
     * @throws ZabbetException if the class has no constructor whose parameters are named like properties
     */
    public static Object view(Class<?> type, Object object) {
        return type.isInterface()
                ? View.of(type, name -> read(object, name))
                : Operators.shape(type).make(prop -> read(object, prop.name()));
    }

    /**
     * Returns the column that keeps a property of an entity.
     *
     * @throws ZabbetException if none does
     */
    public static String column(Class<?> entity, Table table, String property) {
        try {
            return new QueryColumns.OfEntity(entity, table).column(property);
        } catch (UnsupportedQueryException e) {
            throw new ZabbetException(
                    "Table " + table.name() + " has no column for " + entity.getSimpleName() + "." + property + ".", e);
        }
    }

    /** Reads the value that an object or a row is ordered by. */
    public static @Nullable Object sorted(@Nullable Object element, SortBy by) {
        Object value = read(element, by.property());
        return by.ignoreCase() && value instanceof String text ? text.toLowerCase(Locale.ROOT) : value;
    }

    /** Reads a property of an object, or a column of a row, by its path. */
    public static @Nullable Object read(@Nullable Object element, String path) {
        if (element instanceof Row row) {
            return row.columns().stream()
                    .filter(column -> Words.alike(column, path))
                    .findFirst()
                    .<@Nullable Object>map(row::get)
                    .orElse(null);
        }
        return ObjectNames.read(element, path);
    }
}
