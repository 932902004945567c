package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.util.Map;
import org.holtra.service.setups.Setups;
import org.holtra.service.workbench.InletLook;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** How to read what comes in by an inlet. */
@RestController
@RequestMapping("/api/v1/inlets")
class ReadingProposalController {

    private final Setups setups;
    private final InletLook look;

    ReadingProposalController(Setups setups, InletLook look) {
        this.setups = setups;
        this.look = look;
    }

    /** Proposes settings by the inlet's last message: where the device, the time, a payload and a list of messages seem to stand. */
    @GetMapping("/{name}/proposal")
    InletLook.Proposed propose(
            @PathVariable String name,
            @Parameter(description = "whether each arrival is one message, whatever lists are in it")
                    @RequestParam(defaultValue = "false")
                    boolean one) {
        if (setups.current().inlet(name).isEmpty()) {
            throw Problem.notFound("inlet", name);
        }
        return look.propose(name, one)
                .orElseThrow(() -> new Problem(
                        HttpStatus.NOT_FOUND,
                        "No message yet",
                        "Nothing came in by `" + name + "` within thirty days. Send a message first.",
                        Map.of()));
    }
}
