package dev.zabbet.serve.internal.deliver;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.text.Words;
import dev.zabbet.internal.value.CanonicalForm;
import dev.zabbet.internal.value.InexactValueException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedReceiver.Item;
import dev.zabbet.seed.SeedReceiver.Link;
import dev.zabbet.serve.internal.deliver.ApiClient.Answer;
import dev.zabbet.serve.internal.deliver.ApiClient.Request;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.BiPredicate;
import java.util.function.IntConsumer;
import org.jspecify.annotations.Nullable;

/**
 * Delivers rows: each when those that it refers to are there, several at a time. What was created before a refusal is deleted again,
 * last first.
 */
final class DeliveryRun {
    private static final int MOST_SHOWN = 10;

    private final Schema schema;
    private final List<Item> items;
    private final Map<String, TableCalls> calls;
    private final ApiClient client;
    private final ApiMapping mapping;
    private final RequestWriter writer;
    private final @Nullable Row[] stored;
    private final Map<Integer, Integer> carriers = new LinkedHashMap<>();
    private final Map<Integer, List<Integer>> along = new LinkedHashMap<>();
    private final Set<Integer> created = Collections.synchronizedSet(new LinkedHashSet<>());
    private final Map<Integer, Refusal> refused = Collections.synchronizedMap(new TreeMap<>());
    private final Map<Integer, Set<String>> postponed = new LinkedHashMap<>();
    private @Nullable String broken;
    private boolean unsure;

    /** A request that the application did not do. */
    private record Refusal(Request request, Answer answer) {}

    DeliveryRun(Schema schema, List<Item> items, Map<String, TableCalls> calls, ApiClient client, ApiMapping mapping) {
        this.schema = schema;
        this.items = items;
        this.calls = calls;
        this.client = client;
        this.mapping = mapping;
        this.stored = new @Nullable Row[items.size()];
        this.writer = new RequestWriter(mapping.idempotencyKey());
        findCarriers();
    }

    /** Rows without calls of their own come along with the row that they refer to. */
    private void findCarriers() {
        for (int i = 0; i < items.size(); i++) {
            if (calls.containsKey(items.get(i).table().name())) {
                continue;
            }
            for (Link link : items.get(i).links()) {
                TableCalls carrier = calls.get(items.get(link.row()).table().name());
                if (carrier != null
                        && carrier.create().along().stream()
                                .map(name -> schema.require(name).name())
                                .anyMatch(items.get(i).table().name()::equals)) {
                    carriers.put(i, link.row());
                    along.computeIfAbsent(link.row(), row -> new ArrayList<>()).add(i);
                    break;
                }
            }
            if (!carriers.containsKey(i)) {
                throw new ZabbetException(
                        items.get(i).name() + " comes along with a row that it refers to, and that row is not"
                                + " delivered but stored already. Nothing was sent.");
            }
        }
    }

    List<Row> run(BiPredicate<Table, Row> isStored) {
        ExecutorService pool = Executors.newFixedThreadPool(mapping.atOnce(), work -> {
            Thread thread = new Thread(work, "zabbet-deliver");
            thread.setDaemon(true);
            return thread;
        });
        try {
            Set<Integer> left = new LinkedHashSet<>();
            for (int i = 0; i < items.size(); i++) {
                if (!carriers.containsKey(i)) {
                    left.add(i);
                }
            }
            while (!left.isEmpty() && broken == null) {
                List<Integer> ready =
                        left.stream().filter(i -> missing(i).isEmpty()).toList();
                if (ready.isEmpty() && !postpone(left)) {
                    break; // what is left refers to refused rows
                }
                ready.forEach(left::remove);
                together(pool, ready, this::create);
            }
            if (refused.isEmpty() && broken == null) {
                together(pool, List.copyOf(postponed.keySet()), this::complete);
            }
            if (!refused.isEmpty() || broken != null) {
                throw takenBack(left, isStored);
            }
        } finally {
            pool.shutdownNow();
        }
        List<Row> keys = new ArrayList<>();
        for (int i = 0; i < items.size(); i++) {
            keys.add(key(i));
        }
        return keys;
    }

    private void together(ExecutorService pool, List<Integer> rows, IntConsumer work) {
        List<Callable<Boolean>> all = new ArrayList<>();
        rows.forEach(row -> all.add(() -> {
            if (broken == null) {
                work.accept(row);
            }
            return true;
        }));
        try {
            for (Future<Boolean> one : pool.invokeAll(all)) {
                one.get();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            broken = "The delivery was interrupted.";
        } catch (ExecutionException e) {
            unsure = true; // the request that failed may have been done
            broken = String.valueOf(e.getCause() instanceof ZabbetException known ? known.getMessage() : e.getCause());
        }
    }

    /** The rows that have to be there before one can be sent: those that it refers to, and that those along refer to. */
    private Set<Integer> missing(int row) {
        Set<Integer> missing = new LinkedHashSet<>();
        for (Link link : links(row)) {
            boolean waits = !postponed
                    .getOrDefault(row, Set.of())
                    .containsAll(link.reference().columns());
            if (stored[link.row()] == null
                    && link.row() != row
                    && waits
                    && !Objects.equals(carriers.get(link.row()), row)) {
                missing.add(link.row());
            }
        }
        return missing;
    }

    private List<Link> links(int row) {
        List<Link> links = new ArrayList<>(items.get(row).links());
        along.getOrDefault(row, List.of())
                .forEach(child -> links.addAll(items.get(child).links()));
        return links;
    }

    /** Where rows wait for each other, one goes first without its reference, which is set later. */
    private boolean postpone(Set<Integer> left) {
        for (int row : left) {
            Item item = items.get(row);
            TableCalls own = Objects.requireNonNull(calls.get(item.table().name()));
            for (Link link : item.links()) {
                boolean inCircle = left.contains(link.row()) && reaches(link.row(), row, left, new LinkedHashSet<>());
                boolean canBeEmpty = link.reference().columns().stream()
                        .allMatch(column -> item.table().requireColumn(column).nullable());
                if (inCircle && canBeEmpty && own.later() != null) {
                    return postponed
                            .computeIfAbsent(row, r -> new LinkedHashSet<>())
                            .addAll(link.reference().columns());
                }
            }
        }
        for (int row : left) {
            for (Link link : items.get(row).links()) {
                if (left.contains(link.row()) && reaches(link.row(), row, left, new LinkedHashSet<>())) {
                    broken = items.get(row).name() + " and "
                            + items.get(link.row()).name()
                            + " refer to each other. Name the operation that sets such a reference afterwards: tables: "
                            + items.get(row).table().name() + ": later: operationId.";
                    return false;
                }
            }
        }
        return false;
    }

    private boolean reaches(int from, int to, Set<Integer> left, Set<Integer> seen) {
        return from == to
                || (seen.add(from)
                        && links(from).stream()
                                .anyMatch(link -> left.contains(link.row()) && reaches(link.row(), to, left, seen)));
    }

    private void create(int row) {
        Item item = items.get(row);
        TableCalls own = Objects.requireNonNull(calls.get(item.table().name()));
        Row values = resolved(row, postponed.getOrDefault(row, Set.of()));
        List<Item> children = new ArrayList<>();
        List<Row> childValues = new ArrayList<>();
        for (int child : along.getOrDefault(row, List.of())) {
            children.add(items.get(child));
            childValues.add(resolved(child, Set.of()));
        }
        Request request = writer.write(own.create(), item.table(), values, children, childValues);
        Answer answer = client.send(request);
        if (!answer.isDone()) {
            refuse(row, request, answer);
            return;
        }
        created.add(row);
        stored[row] = withKey(own, item, values, answer);
        for (int child : along.getOrDefault(row, List.of())) {
            stored[child] = resolved(child, Set.of());
        }
    }

    private void refuse(int row, Request request, Answer answer) {
        refused.put(row, new Refusal(request, answer));
        if (answer.status() == 401 || answer.status() == 403) {
            broken = "No more was sent, since others would be refused for the same.";
        }
    }

    private void complete(int row) {
        Item item = items.get(row);
        BoundOperation later = Objects.requireNonNull(
                Objects.requireNonNull(calls.get(item.table().name())).later());
        Row whole = Objects.requireNonNull(stored[row]);
        Row resolved = resolved(row, Set.of());
        for (String column : Objects.requireNonNull(postponed.get(row))) {
            whole = whole.with(column, resolved.get(column));
        }
        Request request = writer.write(later, item.table(), whole, List.of(), List.of());
        Answer answer = client.send(request);
        if (!answer.isDone()) {
            refuse(row, request, answer);
        }
    }

    /** Returns a row with the keys that others have got in the place of those that only stood for them. */
    private Row resolved(int row, Set<String> empty) {
        Row values = items.get(row).values();
        for (Link link : items.get(row).links()) {
            Row target = stored[link.row()];
            for (int i = 0; i < link.reference().columns().size(); i++) {
                String column = link.reference().columns().get(i);
                if (empty.contains(column)) {
                    values = values.with(column, null);
                } else if (target != null) {
                    values = values.with(
                            column, target.get(link.reference().targetColumns().get(i)));
                }
            }
        }
        return values;
    }

    private Row withKey(TableCalls own, Item item, Row sent, Answer answer) {
        Row known = sent;
        for (String name : item.table().keyColumns()) {
            Column column = item.table().requireColumn(name);
            Object found = found(own, column, answer);
            boolean reference = !item.table().referencesOf(name).isEmpty();
            if (found != null) {
                known = known.with(name, canonical(item, column, found));
            } else if (!reference && !own.create().columns().contains(name)) {
                throw new ZabbetException(
                        "The application has created " + item.name() + ", and its answer does not tell "
                                + item.table().name() + "." + name + ". Say where it stands: tables: "
                                + item.table().name()
                                + ": key: /id, or Location. It answered " + answer.status() + " " + answer.shown());
            }
        }
        return known;
    }

    private static @Nullable Object found(TableCalls own, Column column, Answer answer) {
        String pointer = own.pointer(column);
        if (pointer != null) {
            Object at = answer.tree();
            for (String part : pointer.substring(1).split("/")) {
                at = at instanceof Map<?, ?> map
                        ? map.get(part.replace("~1", "/").replace("~0", "~"))
                        : null;
            }
            if (at != null) {
                return at;
            }
        }
        boolean single = own.table().keyColumns().size() == 1;
        boolean told = own.inLocation()
                || (pointer == null && single && !own.create().columns().contains(column.name()));
        String location = answer.location();
        return told && location != null ? location.replaceFirst("/+$", "").replaceFirst(".*/", "") : null;
    }

    private static @Nullable Object canonical(Item item, Column column, Object told) {
        try {
            return CanonicalForm.of(column.type(), told);
        } catch (InexactValueException e) {
            throw new ZabbetException("The application answers for " + item.name() + " that its " + column.name()
                    + " is '" + told + "', and " + e.clause() + ".");
        }
    }

    private Row key(int row) {
        Row values = stored[row];
        Map<String, @Nullable Object> key = new LinkedHashMap<>();
        if (values != null) {
            items.get(row).table().keyColumns().forEach(column -> key.put(column, values.get(column)));
        }
        return Row.of(key);
    }

    /** Deletes what was created, last first, and returns what there is to be said. */
    private ZabbetException takenBack(Set<Integer> left, BiPredicate<Table, Row> isStored) {
        List<Integer> rows = new ArrayList<>(created);
        Collections.reverse(rows);
        List<String> why = new ArrayList<>();
        for (int row : rows) {
            BoundOperation delete = Objects.requireNonNull(
                            calls.get(items.get(row).table().name()))
                    .delete();
            Row values = stored[row];
            if (delete != null && values != null) {
                Request request = writer.write(delete, items.get(row).table(), values, List.of(), List.of());
                try {
                    Answer answer = client.send(request);
                    if (!answer.isDone() && answer.status() != 404) {
                        why.add(client.shown(request).get(0) + " answered " + answer.status() + " " + answer.shown());
                    }
                } catch (ZabbetException e) {
                    why.add(String.valueOf(e.getMessage()));
                }
            }
        }
        Map<String, Integer> remain = new TreeMap<>();
        for (int row : rows) {
            Row key = key(row);
            if (key.columns().isEmpty() || isStored.test(items.get(row).table(), key)) {
                remain.merge(items.get(row).table().name(), 1, Integer::sum);
            }
        }
        int gone = rows.size()
                - remain.values().stream().mapToInt(Integer::intValue).sum();
        return new ZabbetException(text(left, gone, remain, why));
    }

    private String text(Set<Integer> left, int gone, Map<String, Integer> remain, List<String> why) {
        StringBuilder text = new StringBuilder();
        text.append(
                refused.isEmpty()
                        ? "The seed was not delivered. "
                        : "The application refused " + refused.size() + " of " + Words.count(items.size(), "row")
                                + ". ");
        if (created.isEmpty()) {
            text.append(unsure ? "No row is known to have been created." : "Nothing was created.");
        } else if (remain.isEmpty()) {
            text.append(unsure ? "As far as is known, nothing of it remains: " : "Nothing of the seed remains: ")
                    .append(Words.count(gone, "row"))
                    .append(" that it had created ")
                    .append(gone == 1 ? "was" : "were")
                    .append(" deleted again.");
        } else {
            List<String> parts = new ArrayList<>();
            remain.forEach((table, count) -> parts.add(count + " of " + table));
            text.append("Of the rows that it had created ")
                    .append(gone)
                    .append(gone == 1 ? " was" : " were")
                    .append(" deleted again; these remain: ")
                    .append(String.join(", ", parts))
                    .append(".");
        }
        int number = 0;
        for (Map.Entry<Integer, Refusal> one : refused.entrySet()) {
            if (++number > MOST_SHOWN) {
                text.append("\n\n… and ").append(refused.size() - MOST_SHOWN).append(" more");
                break;
            }
            describe(text, number, items.get(one.getKey()), one.getValue());
        }
        if (broken != null) {
            text.append("\n\n").append(broken);
        }
        if (!left.isEmpty() && !refused.isEmpty() && broken == null) {
            Map<String, Integer> untried = new TreeMap<>();
            left.forEach(row -> untried.merge(items.get(row).table().name(), 1, Integer::sum));
            List<String> parts = new ArrayList<>();
            untried.forEach((table, count) -> parts.add(count + " of " + table));
            text.append("\n\nNot tried, since they refer to refused ones: ")
                    .append(String.join(", ", parts))
                    .append(".");
        }
        why.stream().limit(MOST_SHOWN).forEach(one -> text.append("\n\nNot deleted: ")
                .append(one));
        return text.toString();
    }

    private void describe(StringBuilder text, int number, Item item, Refusal refusal) {
        text.append("\n\n").append(number).append(") ").append(item.name());
        if (!item.place().where().isEmpty()) {
            text.append(" (").append(item.place().where()).append(")");
        }
        text.append(": ").append(refusal.answer().status());
        client.shown(refusal.request()).forEach(line -> text.append("\n     ").append(line));
        text.append("\n   answered\n     ").append(refusal.answer().shown());
    }
}
