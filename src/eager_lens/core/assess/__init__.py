"""Job -> Assessment: all figures and findings of a job, as a pure function of it.

``figures`` works out what each camera and recorder does, ``rules`` holds the finding rules by family, ``assessment``
puts both together and reuses what did not change, ``verdict`` says each stage's answer in one sentence, ``working``
shows how a figure came about, ``curves`` asks "what if this setting were another".
"""
