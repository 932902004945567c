package org.holtra.core.setup;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** All inlets, lanes and outlets, compiled: one immutable snapshot, which a message is handled by from its arrival. */
public final class Setup {

    private final int revision;
    private final Map<String, Model> models;
    private final Map<String, Inlet> inlets;
    private final Map<String, Outlet> outlets;
    private final Map<String, Lane> lanes;
    private final Map<String, List<Lane>> lanesByInlet = new HashMap<>();

    /** @param revision counts the setups adopted, from 1; 0 for the empty one before the first */
    public Setup(
            int revision,
            Map<String, Model> models,
            Map<String, Inlet> inlets,
            Map<String, Outlet> outlets,
            Map<String, Lane> lanes) {
        this.revision = revision;
        this.models = models;
        this.inlets = inlets;
        this.outlets = outlets;
        this.lanes = lanes;
        for (Lane lane : lanes.values()) {
            for (String inlet : lane.inlets()) {
                lanesByInlet.computeIfAbsent(inlet, name -> new ArrayList<>()).add(lane);
            }
        }
    }

    public static Setup empty() {
        return new Setup(0, Map.of(), Map.of(), Map.of(), Map.of());
    }

    public Setup withRevision(int number) {
        return new Setup(number, models, inlets, outlets, lanes);
    }

    public int revision() {
        return revision;
    }

    public Map<String, Model> models() {
        return models;
    }

    /** @param name of a model, or null */
    public Optional<Model> model(String name) {
        return name == null ? Optional.empty() : Optional.ofNullable(models.get(name));
    }

    public Map<String, Inlet> inlets() {
        return inlets;
    }

    public Map<String, Outlet> outlets() {
        return outlets;
    }

    public Map<String, Lane> lanes() {
        return lanes;
    }

    public List<Lane> lanesOf(String inlet) {
        return lanesByInlet.getOrDefault(inlet, List.of());
    }
}
