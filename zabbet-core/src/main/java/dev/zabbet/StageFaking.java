package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.fake.Definition;
import dev.zabbet.internal.fake.CallLog;
import dev.zabbet.internal.fake.Fakes;
import dev.zabbet.internal.fake.MethodDefinitions;
import dev.zabbet.internal.memory.MemoryRows;
import dev.zabbet.internal.memory.MemoryStore;
import dev.zabbet.internal.memory.RolePermits;
import dev.zabbet.internal.text.Words;
import dev.zabbet.rule.MethodRef0;
import dev.zabbet.rule.MethodRef1;
import dev.zabbet.rule.MethodRef2;
import dev.zabbet.rule.MethodRef3;
import dev.zabbet.rule.MethodRef4;
import dev.zabbet.rule.MethodRef5;
import dev.zabbet.rule.Rules;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.store.Permits;
import dev.zabbet.store.Store;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;

/** A stage as far as data access is swapped: fakes, what their methods do, and what a role may do. */
abstract class StageFaking extends StageArranging {
    final @Nullable String role;
    final MethodDefinitions defined;
    final Fakes fakes;
    final Map<String, RolePermits> permits;

    StageFaking(Store store, StageClock clock, long variation) {
        super(store, clock, variation, new AtomicReference<>());
        role = null;
        defined = new MethodDefinitions();
        fakes = new Fakes(new CallLog(store), defined);
        permits = new ConcurrentHashMap<>();
    }

    /** As another one, with another variation and role. */
    StageFaking(StageFaking like, long variation, @Nullable String role) {
        super(like.store, like.clock, variation, like.payloadForm);
        this.role = role;
        defined = like.defined;
        fakes = like.fakes;
        permits = like.permits;
    }

    /** Returns the methods that were defined for fakes of this stage. */
    MethodDefinitions definitions() {
        return defined;
    }

    /**
     * Returns the source of connections for the application.
     *
     * @throws ZabbetException if the rows live in memory, where there is none
     */
    public DataSource dataSource() {
        String as = role;
        return (as == null ? store.dataSource() : store.dataSource(as))
                .orElseThrow(() -> new ZabbetException("This stage's rows live in " + store.description()
                        + ", where there is no data source. Open it on a database, or use a fake of the data access."));
    }

    /**
     * Returns what a role may do with rows in memory, so that more can be allowed: a role starts without any rights. On a
     * database the granted rights apply and these permits are ignored, so that one test serves both.
     *
     * @throws dev.zabbet.error.UnknownNameException from its methods, if there is no such table
     */
    public Permits permits(String name) {
        Words.notNull(name, "name", "Stage.permits");
        return rolePermits(name);
    }

    private RolePermits rolePermits(String name) {
        return permits.computeIfAbsent(name, n -> new RolePermits(schema(), n));
    }

    /**
     * Returns a working implementation of a data-access interface over the rows of this stage in memory. The behaviour of its
     * methods is read from their names and signatures (docs/swapping.md), or was {@link #define defined}. A row that a
     * constraint refuses is thrown as a {@link ConstraintException}, or as an {@link java.sql.SQLException} where the method
     * declares it.
     *
     * @throws ZabbetException if the stage is not in memory, or a method of the interface is not understood; the message
     *     lists those methods
     */
    public <R> R fake(Class<R> type) {
        return fake(type, refusal -> null);
    }

    /**
     * Returns a fake, as {@link #fake(Class)}, that throws what the real data access throws when a row is refused.
     *
     * @param translation makes of a refusal what is to be thrown; null for what is thrown without it
     */
    public <R> R fake(Class<R> type, Function<? super ConstraintException, ? extends @Nullable Throwable> translation) {
        Words.notNull(type, "type", "Stage.fake");
        MemoryStore memory = MemoryRows.of(store)
                .orElseThrow(() -> new ZabbetException("A fake of " + type.getSimpleName()
                        + " needs rows in memory; this stage's rows live in " + store.description()
                        + ". Open it by Memory.stage(schema), or let fakeOrReal choose."));
        String as = role;
        return fakes.fake(type, as == null ? memory : memory.as(rolePermits(as)), translation);
    }

    /**
     * Returns the one place to choose: in memory a fake, on a database the real implementation. Rules work for either.
     *
     * @param type the data-access interface
     * @param real makes the real implementation, from the stage's connections
     * @throws ZabbetException as {@link #fake(Class)}
     */
    public <R> R fakeOrReal(Class<R> type, Function<? super DataSource, ? extends R> real) {
        return fakeOrReal(type, real, refusal -> null);
    }

    /**
     * Returns the one place to choose, as {@link #fakeOrReal(Class, Function)}; the fake throws what the real data access
     * throws when a row is refused.
     *
     * @param translation makes of a refusal what is to be thrown; null for what is thrown without it. Not asked on a
     *     database, where the real implementation throws what it throws
     */
    public <R> R fakeOrReal(
            Class<R> type,
            Function<? super DataSource, ? extends R> real,
            Function<? super ConstraintException, ? extends @Nullable Throwable> translation) {
        Words.notNull(type, "type", "Stage.fakeOrReal");
        Words.notNull(real, "real", "Stage.fakeOrReal");
        Words.notNull(translation, "translation", "Stage.fakeOrReal");
        return store.isInMemory() ? fake(type, translation) : fakes.before(type, real.apply(dataSource()));
    }

    /**
     * Returns the rules of what {@link #fake} or {@link #fakeOrReal} returned, to make it misbehave and to expect calls.
     *
     * @throws ZabbetException if the object is none of these
     */
    public <R> Rules<R> rules(R fake) {
        return Rules.of(fake);
    }

    /**
     * Defines what a method does in all fakes that this stage makes from now on, where its name does not tell or tells
     * something else: {@code stage.define(StayRepository::findOverbooked, (tables, given) -> …)}.
     *
     * @param method a method reference
     * @param definition what it does
     */
    public <R> void define(MethodRef0<R> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(MethodRef0, Definition)}, for a method with one argument. */
    public <R, A> void define(MethodRef1<R, A> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(MethodRef0, Definition)}, for a method with two arguments. */
    public <R, A, B> void define(MethodRef2<R, A, B> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(MethodRef0, Definition)}, for a method with three arguments. */
    public <R, A, B, C> void define(MethodRef3<R, A, B, C> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(MethodRef0, Definition)}, for a method with four arguments. */
    public <R, A, B, C, D> void define(MethodRef4<R, A, B, C, D> method, Definition definition) {
        defined.add(method, definition);
    }

    /** As {@link #define(MethodRef0, Definition)}, for a method with five arguments. */
    public <R, A, B, C, D, E> void define(MethodRef5<R, A, B, C, D, E> method, Definition definition) {
        defined.add(method, definition);
    }
}
