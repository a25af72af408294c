package dev.zabbet.examples.spring;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.ManyToOne;
import java.math.BigDecimal;

/** What a guest gets back. */
@Entity
public class Refund {
    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    @ManyToOne(optional = false)
    private Stay stay;

    private BigDecimal amount = BigDecimal.ZERO;

    /** For the provider. */
    protected Refund() {}

    /** A refund that is not stored. */
    public Refund(Stay stay, BigDecimal amount) {
        this.stay = stay;
        this.amount = amount;
    }

    /** Returns its key; null until it is stored. */
    public Long getId() {
        return id;
    }

    /** Returns what it is for. */
    public Stay getStay() {
        return stay;
    }

    /** Returns how much it is. */
    public BigDecimal getAmount() {
        return amount;
    }
}
