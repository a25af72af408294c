package dev.zabbet.internal.plan;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.value.SplitMix;
import dev.zabbet.internal.value.Text;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RowSource;
import dev.zabbet.store.Store;
import java.time.Clock;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The rows of a {@code Bulk}: one plan after another, each of which may refer to rows of those before. All parts make the
 * same plans, and each stores its own rows of them. Not thread-safe.
 */
public final class BulkPlan {
    private final List<Plan> plans = new ArrayList<>();
    private final BulkRecipe bulk;
    private final String name;
    private final List<Integer> done = new ArrayList<>();
    private @Nullable String round;

    private BulkPlan(BulkRecipe bulk, String name) {
        this.bulk = bulk;
        this.name = name;
    }

    /**
     * Plans rows.
     *
     * @throws ZabbetException if they cannot be made, or the part is stored already
     */
    public static BulkPlan of(Schema schema, long variation, Clock clock, BulkRecipe bulk, Store store) {
        return of(schema, variation, clock, bulk, StoreView.of(store), store::noted);
    }

    /** Plans rows as if nothing were stored, and leaves no trace of it. */
    public static BulkPlan inTheAir(Schema schema, long variation, Clock clock, BulkRecipe bulk) {
        Map<Table, Long> last = new HashMap<>();
        StoreView ground = (table, count) -> last.merge(table, (long) count, Long::sum) - count + 1;
        return of(schema, variation, clock, bulk, ground, name -> Optional.empty());
    }

    private static BulkPlan of(
            Schema schema,
            long variation,
            Clock clock,
            BulkRecipe bulk,
            StoreView ground,
            Function<String, Optional<String>> noted) {
        BulkPlan all = new BulkPlan(bulk, nameOf(bulk, variation));
        List<Long> begins = all.parts() == 1 ? List.of() : all.readNotes(noted);
        Bases bases = new Bases(ground, begins);
        EarlierPlans before = new EarlierPlans();
        for (BulkRecipe.Batch batch : bulk.batches()) {
            Recipe<?> recipe = bulk.filled() ? batch.recipe().filled() : batch.recipe();
            Plan plan = Plan.of(schema, variation, clock, batch.count(), recipe, bases, before);
            bases.begin(plan);
            all.plans.add(plan);
            before.add(plan);
        }
        all.round = begins.isEmpty() ? bases.text() : all.round;
        return all;
    }

    /** Parts belong together by this. */
    private static String nameOf(BulkRecipe bulk, long variation) {
        String said = bulk.batches().stream()
                .map(batch -> batch.count() + " " + batch.recipe().table() + " "
                        + batch.recipe().settings().keySet())
                .collect(Collectors.joining(", ", "variation " + variation + (bulk.filled() ? " filled " : " "), ""));
        return "bulk " + Long.toHexString(SplitMix.name(said, "bulk")) + " in " + bulk.parts();
    }

    private int parts() {
        return bulk.parts();
    }

    private String note(int part) {
        return name + ", part " + part;
    }

    /** Reads where the rows' numbers begin, if a part is stored already; a round of parts that is complete is over. */
    private List<Long> readNotes(Function<String, Optional<String>> noted) {
        for (int part = 1; part <= parts(); part++) {
            Optional<String> text = noted.apply(note(part));
            if (text.isPresent()) {
                done.add(part);
                round = text.get();
            }
        }
        if (done.size() == parts()) {
            done.clear();
        }
        String text = round;
        if (done.isEmpty() || text == null) {
            round = null;
            return List.of();
        }
        if (done.contains(bulk.part())) {
            List<String> missing = new ArrayList<>();
            for (int part = 1; part <= parts(); part++) {
                if (!done.contains(part)) {
                    missing.add(part + "/" + parts());
                }
            }
            throw new ZabbetException(
                    "Part " + bulk.part() + "/" + parts() + " is stored already; missing: " + String.join(", ", missing)
                            + ". Store those, or empty the tables by 'zabbet clear' to begin again.");
        }
        List<Long> begins = new ArrayList<>();
        for (String number : text.split(" ")) {
            begins.add(Long.parseLong(number, Character.MAX_RADIX));
        }
        return begins;
    }

    /** Returns the rows of this part, in an order in which they can be stored. */
    public Load load() {
        List<RowSource> inserts = new ArrayList<>();
        List<Load.Fill> fills = new ArrayList<>();
        List<BitSet> wanted = parts() == 1 ? List.of() : wanted(); // of the whole nothing has to be counted
        for (int i = 0; i < plans.size(); i++) {
            // what there is once comes with the part that is stored first
            Load one = PlanLoad.of(
                    plans.get(i),
                    Set.of(),
                    wanted.isEmpty() ? null : new PlanLoad.Share(wanted.get(i), done.isEmpty()));
            inserts.addAll(one.inserts());
            fills.addAll(one.updates());
        }
        inserts.removeIf(source -> source.size() == 0);
        fills.removeIf(fill -> fill.rows().size() == 0);
        String text = round;
        return new Load(inserts, fills, List.of(), parts() == 1 || text == null ? List.of() : notes(text));
    }

    private List<Load.Note> notes(String text) {
        List<Load.Note> notes = new ArrayList<>();
        notes.add(new Load.Note(note(bulk.part()), Optional.of(text)));
        if (done.isEmpty()) { // a new round: what was noted of one before is over
            for (int part = 1; part <= parts(); part++) {
                if (part != bulk.part()) {
                    notes.add(new Load.Note(note(part), Optional.empty()));
                }
            }
        }
        return notes;
    }

    /** Of each plan, the rows asked for that this part stores: what it needs, without what other parts have stored. */
    private List<BitSet> wanted() {
        List<BitSet> wanted = needed(bulk.part());
        for (int other : done) {
            List<BitSet> stored = needed(other);
            for (int i = 0; i < wanted.size(); i++) {
                wanted.get(i).andNot(stored.get(i));
            }
        }
        return wanted;
    }

    /** Of each plan, the share of a part and what that refers to. */
    private List<BitSet> needed(int part) {
        List<BitSet> needed = new ArrayList<>();
        for (Plan plan : plans) {
            BitSet share = new BitSet(plan.roots());
            share.set((int) ((long) plan.roots() * (part - 1) / parts()), (int) ((long) plan.roots() * part / parts()));
            needed.add(share);
        }
        for (int i = plans.size() - 1; i >= 0; i--) {
            for (ParentPick pick : plans.get(i).picks()) {
                pick.mark(needed.get(i), needed.get(plans.indexOf(pick.parents)));
            }
        }
        return needed;
    }

    /** Notes where each plan's rows begin in each table, or gives what was noted: then nothing is reserved again. */
    private static final class Bases implements StoreView {
        private final StoreView ground;
        private final List<Long> given;
        private final List<Long> taken = new ArrayList<>();
        private final Map<Table, Long> last = new HashMap<>();
        private int next;

        Bases(StoreView ground, List<Long> given) {
            this.ground = ground;
            this.given = given;
        }

        @Override
        public long reserve(Table table, int count) {
            if (!given.isEmpty()) {
                return given.get(next++);
            }
            // MariaDB's and SQLite's counters move only when rows are stored, so that they would give the same again
            long first = Math.max(ground.reserve(table, count), last.getOrDefault(table, 0L) + 1);
            last.put(table, first + count - 1);
            return first;
        }

        /** What the first part found is noted by a number that stands for its key. */
        @Override
        public Optional<Row> serving(Table table, Condition condition, List<String> key, int turn) {
            if (!given.isEmpty()) {
                long noted = given.get(next++);
                return ground.rows(table, condition).stream()
                        .filter(row -> noted == numberOf(row, key))
                        .findFirst();
            }
            Optional<Row> row = ground.serving(table, condition, key, turn);
            taken.add(row.map(r -> numberOf(r, key)).orElse(0L));
            return row;
        }

        private static long numberOf(Row row, List<String> key) {
            return SplitMix.name(
                    key.stream().map(column -> Text.of(row.get(column))).collect(Collectors.joining(" ")), "serving");
        }

        @Override
        public List<Row> rows(Table table, Condition condition) {
            return ground.rows(table, condition);
        }

        void begin(Plan plan) {
            plan.tables().forEach(table -> taken.add(plan.first(table)));
        }

        String text() {
            return taken.stream()
                    .map(number -> Long.toString(number, Character.MAX_RADIX))
                    .collect(Collectors.joining(" "));
        }

        @Override
        public Optional<Boolean> keeps(Table table, Check check, Row row) {
            return ground.keeps(table, check, row);
        }

        /** What is stored was looked at when the numbers were reserved. */
        @Override
        public boolean isStored(Table table, Condition condition) {
            return given.isEmpty() && ground.isStored(table, condition);
        }

        @Override
        public List<Row> rows(Table table, int most) {
            return ground.rows(table, most);
        }

        @Override
        public Optional<DocumentRecipe> documents(Table table, Column column) {
            return ground.documents(table, column);
        }

        @Override
        public boolean isExact() {
            return ground.isExact();
        }
    }
}
