package dev.zabbet.junit.internal;

import dev.zabbet.error.ZabbetException;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.NoSuchElementException;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.SynchronousQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.extension.Extension;
import org.junit.jupiter.api.extension.TestTemplateInvocationContext;

/**
 * The runs of one test: its variations, then the exchanges that the search asks for, then what was found. JUnit asks for each after
 * the one before has ended. The search goes on a thread of its own, which waits while a run is made.
 */
final class VariationRuns implements Iterator<TestTemplateInvocationContext> {
    private static final long PATIENCE = 3_600; // seconds; a run takes as long as it takes

    private final int count;
    private final int exchanges;
    private final long seconds;
    private final List<VariationRun> runs = new ArrayList<>();
    private final SynchronousQueue<Step> steps = new SynchronousQueue<>();
    private final SynchronousQueue<VariationRun> answers = new SynchronousQueue<>();
    private int begun;
    private int exchanged;
    private @Nullable Thread search;
    private @Nullable TestTemplateInvocationContext next;
    private boolean over;

    /** What the search wants: one more run, or to be done. */
    private record Step(
            DecidingValues.@Nullable Exchange exchange,
            Optional<DecidingValues.Found> found,
            @Nullable RuntimeException failure) {}

    VariationRuns(int count, int exchanges, int seconds) {
        this.count = count;
        this.exchanges = exchanges;
        this.seconds = seconds;
    }

    @Override
    public boolean hasNext() {
        if (next == null && !over) {
            next = find();
            over = next == null;
        }
        return next != null;
    }

    @Override
    public TestTemplateInvocationContext next() {
        if (!hasNext()) {
            throw new NoSuchElementException();
        }
        TestTemplateInvocationContext found = next;
        next = null;
        return java.util.Objects.requireNonNull(found);
    }

    private @Nullable TestTemplateInvocationContext find() {
        if (begun < count) {
            int variation = begun++;
            return context(
                    "variation " + variation,
                    new InVariation(new DecidingValues.Exchange(variation, variation, Set.of()), false, runs::add));
        }
        if (search == null) {
            if (runs.size() < count
                    || runs.stream().allMatch(run -> run.passed() == runs.get(0).passed())) {
                return null; // nothing decides
            }
            begin();
        } else if (exchanged == 0) {
            return null;
        }
        Step step = take(steps);
        if (step.failure() != null) {
            throw step.failure();
        }
        DecidingValues.Exchange exchange = step.exchange();
        if (exchange == null) {
            exchanged = 0;
            return step.found()
                    .map(found -> context("what decides", new WhatDecides(DecidingReport.of(found, count))))
                    .orElse(null);
        }
        exchanged++;
        return context("exchange " + exchanged, new InVariation(exchange, true, this::answer));
    }

    private void begin() {
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(seconds);
        List<VariationRun> known = List.copyOf(runs);
        AtomicInteger left = new AtomicInteger(exchanges);
        Thread thread = new Thread(
                () -> {
                    Step last;
                    try {
                        last = new Step(null, DecidingValues.of(known, exchange -> ask(exchange, left, until)), null);
                    } catch (RuntimeException e) {
                        last = new Step(null, Optional.empty(), e);
                    }
                    put(steps, last);
                },
                "zabbet deciding values");
        thread.setDaemon(true);
        search = thread;
        exchanged = 0;
        thread.start();
    }

    private VariationRun ask(DecidingValues.Exchange exchange, AtomicInteger left, long until) {
        if (left.getAndDecrement() <= 0 || System.nanoTime() > until) {
            throw new DecidingValues.EnoughException();
        }
        put(steps, new Step(exchange, Optional.empty(), null));
        return take(answers);
    }

    private void answer(VariationRun run) {
        put(answers, run);
    }

    private static <T> void put(SynchronousQueue<T> queue, T what) {
        try {
            if (!queue.offer(what, PATIENCE, TimeUnit.SECONDS)) {
                throw new ZabbetException(
                        "The search for deciding values does not go on: no run has ended for an hour.");
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("The search for deciding values was interrupted.", e);
        }
    }

    private static <T> T take(SynchronousQueue<T> queue) {
        try {
            T taken = queue.poll(PATIENCE, TimeUnit.SECONDS);
            if (taken == null) {
                throw new ZabbetException(
                        "The search for deciding values does not go on: no run has ended for an hour.");
            }
            return taken;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new ZabbetException("The search for deciding values was interrupted.", e);
        }
    }

    private static TestTemplateInvocationContext context(String name, Extension extension) {
        return new TestTemplateInvocationContext() {
            @Override
            public String getDisplayName(int invocationIndex) {
                return name;
            }

            @Override
            public List<Extension> getAdditionalExtensions() {
                return List.of(extension);
            }
        };
    }
}
