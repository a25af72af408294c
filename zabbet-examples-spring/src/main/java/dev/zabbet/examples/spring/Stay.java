package dev.zabbet.examples.spring;

import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.FetchType;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.ManyToOne;
import jakarta.persistence.Version;
import java.math.BigDecimal;

/** Some nights of a guest in a hut. */
@Entity
public class Stay {
    /** Where a stay stands. */
    public enum Status {
        /** The bed is kept. */
        BOOKED,
        /** The bed is free again. */
        CANCELLED
    }

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    @ManyToOne(fetch = FetchType.LAZY, optional = false)
    private Hut hut;

    private String guest = "";
    private int nights;
    private BigDecimal price = BigDecimal.ZERO;

    @Enumerated(EnumType.STRING)
    private Status status = Status.BOOKED;

    @Version
    private int version;

    /** For the provider. */
    protected Stay() {}

    /** A stay that is booked and not stored. */
    public Stay(Hut hut, String guest, int nights, BigDecimal price) {
        this.hut = hut;
        this.guest = guest;
        this.nights = nights;
        this.price = price;
    }

    /** Returns its key; null until it is stored. */
    public Long getId() {
        return id;
    }

    /** Returns where it is. */
    public Hut getHut() {
        return hut;
    }

    /** Returns who stays. */
    public String getGuest() {
        return guest;
    }

    /** Returns how long it is. */
    public int getNights() {
        return nights;
    }

    /** Returns what it costs. */
    public BigDecimal getPrice() {
        return price;
    }

    /** Returns where it stands. */
    public Status getStatus() {
        return status;
    }

    /** Returns how often it was changed. */
    public int getVersion() {
        return version;
    }

    /** Sets the bed free. */
    void cancel() {
        status = Status.CANCELLED;
    }
}
