package dev.zabbet.internal.fake;

import dev.zabbet.fake.ComparedCalls;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Condition;
import dev.zabbet.store.Load;
import dev.zabbet.store.RewindPoint;
import dev.zabbet.store.RowSource;
import dev.zabbet.store.Store;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import org.jspecify.annotations.Nullable;
import org.opentest4j.AssertionFailedError;

/** Drives a fake and a real implementation side by side; {@code SameBehaviour.check} is the way to it. */
public final class Comparison {
    private static final int AT_ONCE = 40; // calls between two rewinds
    private static final int REPLAYS = 150;

    private final Class<?> type;
    private final MemoryStore memory;
    private final Store real;
    private final long variation;
    private final List<Table> tables;
    private int refused;

    /** A call with its arguments. */
    private record Step(Method method, @Nullable Object[] arguments) {
        @Override
        public String toString() {
            return Words.cut(
                    method.getName()
                            + Arrays.asList(arguments)
                                    .toString()
                                    .replaceFirst("^\\[", "(")
                                    .replaceFirst("]$", ")"),
                    600);
        }
    }

    /** The two outcomes of a call that differ. */
    private record Difference(String fake, String real) {
        private static final int MOST = 600;
        private static final int BEFORE = 80;

        /** Returns both sides so that what differs is seen, however long they are. */
        Difference cut() {
            int same = 0;
            int shorter = Math.min(fake.length(), real.length());
            while (same < shorter && fake.charAt(same) == real.charAt(same)) {
                same++;
            }
            int start = Math.max(fake.length(), real.length()) <= MOST ? 0 : Math.max(0, same - BEFORE);
            return new Difference(cut(fake, start), cut(real, start));
        }

        private static String cut(String side, int start) {
            return (start == 0 ? "" : "… ") + Words.cut(side.substring(Math.min(start, side.length())), MOST);
        }
    }

    /** Calls, and how the last of them differs. */
    private record Shown(List<Step> steps, Difference difference) {}

    /**
     * @param type the interface
     * @param memory an empty store; it gets the rows of the other
     * @param real a store on a database
     * @param variation the number that the calls follow from
     */
    public Comparison(Class<?> type, MemoryStore memory, Store real, long variation) {
        this.type = type;
        this.memory = memory;
        this.real = real;
        this.variation = variation;
        this.tables = real.schema().tables();
        List<RowSource> sources = new ArrayList<>();
        for (Table table : real.schema().storingOrder().tables()) {
            sources.add(new Copied(table, writable(table), real.rows(table, Condition.all())));
        }
        memory.store(new Load(sources, List.of()));
    }

    private static List<Column> writable(Table table) {
        return table.columns().stream().filter(c -> !c.isComputed()).toList();
    }

    /** Rows that were read, to be stored elsewhere. */
    private record Copied(Table table, List<Column> columns, List<Row> rows) implements RowSource {
        @Override
        public int size() {
            return rows.size();
        }

        @Override
        public @Nullable Object value(int row, int column) {
            return rows.get(row).get(columns.get(column).name());
        }
    }

    /**
     * Drives both with generated calls.
     *
     * @throws AssertionError at the first difference, with the fewest calls that show it
     */
    public ComparedCalls drive(Object fake, Object implementation, int calls) {
        List<Method> methods = new ArrayList<>();
        List<String> leftOut = new ArrayList<>();
        MadeArguments arguments = new MadeArguments(type, memory);
        for (Method method : MadeArguments.methods(type)) {
            if (method.isDefault() || Modifier.isStatic(method.getModifiers())) {
                continue;
            }
            Optional<String> trouble = arguments.trouble(method);
            trouble.ifPresentOrElse(
                    why -> leftOut.add(Signature.of(type, method).describe() + ": " + why), () -> methods.add(method));
        }
        if (methods.isEmpty()) {
            throw new dev.zabbet.error.ZabbetException(
                    "No method of " + type.getSimpleName() + " can be driven:\n  " + String.join("\n  ", leftOut));
        }
        align();
        RewindPoint memoryStart = memory.mark();
        RewindPoint realStart = real.mark();
        for (int done = 0; done < calls; done += AT_ONCE) {
            List<Step> steps = new ArrayList<>();
            Difference difference = null;
            for (int i = 0; i < Math.min(AT_ONCE, calls - done) && difference == null; i++) {
                // each call has draws of its own: how many one of them takes depends on the rows
                Random random = new Random((variation * 1_000_003 + done + i) * 31 + 7);
                Method method = methods.get(random.nextInt(methods.size()));
                Step step = new Step(method, arguments.of(method, random));
                steps.add(step);
                difference = compare(step, fake, implementation, i % 10 == 9);
            }
            if (difference != null) {
                List<Step> few = shrunk(steps, fake, implementation, memoryStart, realStart);
                throw report(new Shown(steps, difference), few, fake, implementation, memoryStart, realStart);
            }
            memory.rewind(memoryStart);
            real.rewind(realStart);
        }
        return new ComparedCalls(calls, refused, List.copyOf(leftOut));
    }

    private @Nullable Difference compare(Step step, Object fake, Object implementation, boolean all) {
        String here = outcome(step, fake);
        String there = outcome(step, implementation);
        boolean bothFail = here.startsWith(Outcomes.FAILS) && there.startsWith(Outcomes.FAILS);
        boolean alike =
                here.equals(there) || (bothFail && (here.equals(Outcomes.FAILS) || there.equals(Outcomes.FAILS)));
        if (!alike) {
            return new Difference(here, there);
        }
        if (bothFail) {
            refused++;
            align();
        }
        for (Table table : tables) {
            if (all || isOf(table)) {
                Difference rows = compareRows(table);
                if (rows != null) {
                    return rows;
                }
            }
        }
        return null;
    }

    /** The tables that the interface is about are compared after every call, the others now and then. */
    private boolean isOf(Table table) {
        for (Method method : MadeArguments.methods(type)) {
            Signature signature = Signature.of(type, method);
            List<Class<?>> within = new ArrayList<>(Signature.within(signature.result()));
            signature.parameters().forEach(p -> within.addAll(Signature.within(p)));
            for (Class<?> one : within) {
                if (EntityType.isEntity(one, memory.schema())
                        && dev.zabbet.internal.type.TypeShape.tableOf(one).equals(table.name())) {
                    return true;
                }
            }
        }
        return false;
    }

    private @Nullable Difference compareRows(Table table) {
        List<String> here = texts(memory.rows(table, Condition.all()));
        List<String> there = texts(real.rows(real.schema().require(table.name()), Condition.all()));
        if (here.equals(there)) {
            return null;
        }
        List<String> onlyHere = new ArrayList<>(here);
        there.forEach(onlyHere::remove);
        List<String> onlyThere = new ArrayList<>(there);
        here.forEach(onlyThere::remove);
        return new Difference(
                "leaves in " + table.name() + ": " + String.join("; ", onlyHere),
                "leaves in " + table.name() + ": " + String.join("; ", onlyThere));
    }

    private static List<String> texts(List<Row> rows) {
        return rows.stream().map(Outcomes::text).sorted().toList();
    }

    /** Numbers that one side gave to a refused row are passed over on the other. */
    private void align() {
        for (Table table : tables) {
            if (table.numberedColumn().isPresent() && isOf(table)) {
                Table there = real.schema().require(table.name());
                long first = real.reserve(there, 1);
                long second = real.reserve(there, 1);
                memory.continueFrom(
                        table, second == first ? first : second + 1); // MariaDB's counter moves with rows alone
            }
        }
    }

    private String outcome(Step step, Object target) {
        @Nullable
        Object[] arguments = Arrays.stream(step.arguments()).map(Copies::of).toArray();
        try {
            step.method().setAccessible(true);
            Object result = step.method().invoke(target, arguments);
            boolean ordered = step.method().getName().contains("OrderBy");
            return "gives " + Outcomes.of(result, ordered, memory.schema());
        } catch (InvocationTargetException e) {
            return Outcomes.failure(e.getCause() == null ? e : e.getCause());
        } catch (IllegalAccessException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Leaves away calls that are not needed to show a difference. */
    private List<Step> shrunk(
            List<Step> steps, Object fake, Object implementation, RewindPoint memoryStart, RewindPoint realStart) {
        List<Step> few = new ArrayList<>(steps);
        for (Step alone : alone(steps.get(steps.size() - 1), memoryStart)) {
            if (replay(List.of(alone), fake, implementation, memoryStart, realStart) == 0) {
                return List.of(alone);
            }
        }
        int replays = 0;
        for (int size = Math.max(1, few.size() / 2); size >= 1 && replays < REPLAYS; size /= 2) {
            for (int at = few.size() - 1 - size; at >= 0 && replays < REPLAYS; at -= size) {
                List<Step> fewer = new ArrayList<>(few);
                fewer.subList(at, Math.min(at + size, fewer.size() - 1)).clear();
                replays++;
                int differs = replay(fewer, fake, implementation, memoryStart, realStart);
                if (differs >= 0) {
                    few = new ArrayList<>(fewer.subList(0, differs + 1));
                    at = Math.min(at, few.size() - 1);
                }
            }
        }
        return few;
    }

    /** Returns a call as it is, and with the keys of rows that are there from the start. */
    private List<Step> alone(Step step, RewindPoint memoryStart) {
        memory.rewind(memoryStart);
        List<Step> steps = new ArrayList<>(List.of(step));
        for (int i = 0; i < step.arguments().length; i++) {
            Object argument = step.arguments()[i];
            if (argument != null && EntityType.isEntity(argument.getClass(), memory.schema())) {
                EntityType entity = EntityType.of(argument.getClass(), memory.schema());
                for (Row row : memory.rows(entity.table(), Condition.all())) {
                    @Nullable Object[] arguments = step.arguments().clone();
                    arguments[i] = entity.shape()
                            .make(prop -> entity.key().contains(prop)
                                    ? row.get(
                                            entity.columnOf(prop).orElseThrow().name())
                                    : entity.shape().read(argument, prop));
                    steps.add(new Step(step.method(), arguments));
                }
            }
        }
        return steps;
    }

    /** Returns the place of the first call at which both differ, or -1. */
    private int replay(
            List<Step> steps, Object fake, Object implementation, RewindPoint memoryStart, RewindPoint realStart) {
        memory.rewind(memoryStart);
        real.rewind(realStart);
        for (int i = 0; i < steps.size(); i++) {
            if (compare(steps.get(i), fake, implementation, true) != null) {
                return i;
            }
        }
        return -1;
    }

    /** @param found the calls that showed the difference first; they stand in the report if fewer do not show it again */
    private AssertionFailedError report(
            Shown found,
            List<Step> few,
            Object fake,
            Object implementation,
            RewindPoint memoryStart,
            RewindPoint realStart) {
        memory.rewind(memoryStart);
        real.rewind(realStart);
        Shown again = null;
        for (int i = 0; i < few.size() && again == null; i++) {
            Difference difference = compare(few.get(i), fake, implementation, true);
            again = difference == null ? null : new Shown(few.subList(0, i + 1), difference);
        }
        Shown shown = again == null ? found : again;
        Difference difference = shown.difference().cut();
        StringBuilder text = new StringBuilder(implementation.getClass().getSimpleName() + " on " + real.description()
                + " does not behave as the fake of " + type.getSimpleName() + ".");
        for (int i = 0; i < shown.steps().size(); i++) {
            text.append("\n  ").append(i + 1).append(". ").append(shown.steps().get(i));
        }
        text.append("\n     fake:  ")
                .append(difference.fake())
                .append("\n     real:  ")
                .append(difference.real());
        text.append(
                again == null
                        ? "\nThe same calls made again showed no difference: something beside them decides, the time or what"
                                + " the implementation keeps for itself."
                        : "\nOne of the two is wrong, or the method means something else: then define it for the fake.");
        text.append("\nVariation ").append(variation).append(".");
        return new AssertionFailedError(text.toString(), difference.fake(), difference.real());
    }
}
